import { capabilities, type Capability } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { aCount } from '../testing/answers';
import { definition } from '../testing/catalogue';
import { catalogueView, openPage, Refused } from '../testing/page';

const READING: readonly Capability[] = capabilities.filter((each) => each.endsWith(':read'));
const SAVED = { made: ['tag glaze.shino'], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
const COUNTED = { 'POST /api/v1/audiences/count': aCount({ count: 12, of: 100 }) };
const emptyPlan = { ...catalogueView([]), definitions: [] };

describe('the tag plan', () => {
  it('says of each tag who has it, what gives it and what relies on it, and leads there', async () => {
    const rule = definition(70, 'rule', 'ash', 'Ash buyers', {
      of: 'contact',
      when: { kind: 'becomes', condition: { match: 'all', of: [{ kind: 'tag', tag: 4, op: 'has' }] } },
      then: [{ do: 'add tag', tag: 3 }],
      howOften: {},
      beginsWith: 'from now on',
      maxAgeDays: 7,
      position: 1,
      on: false,
    });
    openPage('/tags', COUNTED, { more: [rule] });
    const given = await screen.findByRole('row', { name: /glaze\.ash/ });
    await waitFor(() => expect(given).toHaveTextContent('12'));
    expect(given).toHaveTextContent('Ash buyers (off)');
    expect(within(given).getByRole('link', { name: 'Ash buyers' })).toHaveAttribute('href', '/rules/ash');
    expect(within(given).getByRole('link', { name: /glaze\.ash/ })).toHaveAttribute('href', '/tags/glaze.ash');
    const relied = screen.getByRole('row', { name: /glaze\.celadon/ });
    expect(relied).toHaveTextContent('by hand');
    expect(within(relied).getByRole('link', { name: 'Ash buyers' })).toBeInTheDocument();
    expect(screen.getByRole('link', { name: 'Glaze' })).toHaveAttribute('href', '/tags/families/glaze');
  });

  it('with nothing in it says what a tag is, and makes the first with its family', async () => {
    const { asked } = openPage('/tags', { ...COUNTED, 'GET /api/app/catalogue': emptyPlan, 'PUT /api/v1/definitions': SAVED });
    expect(await screen.findByText('No tag yet')).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText('Name of the family'), 'Way of working');
    await userEvent.type(screen.getByLabelText('New tag: who has it?'), 'throws on the wheel');
    await userEvent.click(screen.getByRole('button', { name: 'Add tag' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    const [{ families, tags }] = asked('PUT /api/v1/definitions').map(
      ({ body }) => body as { families: { key: string; prefix: string }[]; tags: { key: string; name: string; family: string }[] },
    ) as [{ families: { key: string; prefix: string }[]; tags: { key: string; name: string; family: string }[] }];
    expect(tags).toHaveLength(1);
    expect(tags[0]).toMatchObject({ name: 'throws on the wheel', family: families[0]?.key });
    expect(tags[0]?.key.startsWith(`${families[0]?.prefix ?? ''}.`)).toBe(true);
  });

  it('keeps what was entered where a tag is refused, and says why', async () => {
    openPage('/tags', {
      ...COUNTED,
      'PUT /api/v1/definitions': new Refused(422, {
        title: 'Nothing was saved.',
        faults: [{ path: ['tags', 'glaze.ash', 'name'], code: 'name.taken', expected: 'another name' }],
      }),
    });
    await userEvent.type(await screen.findByLabelText('New tag: who has it?'), 'cares for shino');
    await userEvent.selectOptions(screen.getByLabelText('Carries'), 'date');
    await userEvent.click(screen.getByRole('button', { name: 'Add tag' }));
    expect(await screen.findByText(/another name/)).toBeInTheDocument();
    expect(screen.getByLabelText('New tag: who has it?')).toHaveValue('cares for shino');
    expect(screen.getByLabelText('Carries')).toHaveValue('date');
  });

  it('shows a long name in its row, what is retired under it, and to a viewer no way to change it', async () => {
    const long = 'cares for a glaze whose name goes on and on, as names do when two potters could not agree on one';
    const more = [
      definition(71, 'tag', 'glaze.long', long, { family: 2 }),
      { ...definition(72, 'tag', 'glaze.old', 'old', { family: 2 }), retired: true },
    ];
    openPage('/tags', COUNTED, { more, may: READING });
    expect(await screen.findByText(long)).toHaveClass('truncate');
    expect(screen.queryByRole('row', { name: /glaze\.old/ })).not.toBeInTheDocument();
    await userEvent.click(screen.getByText('1 retired'));
    expect(screen.getByRole('link', { name: 'old' })).toHaveAttribute('href', '/tags/glaze.old');
    expect(screen.queryByRole('button', { name: 'Add tag' })).not.toBeInTheDocument();
  });
});

describe('a copy of a tag', () => {
  it('has a key that begins as those of its family do', async () => {
    const { asked } = openPage('/tags/glaze.ash', { ...COUNTED, 'PUT /api/v1/definitions': SAVED });
    await userEvent.click(await screen.findByLabelText('More for this tag'));
    await userEvent.click(screen.getByRole('button', { name: 'Duplicate' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
      tags: [{ key: 'glaze.ash-copy', name: 'ash, copy', family: 'glaze' }],
    });
  });
});
