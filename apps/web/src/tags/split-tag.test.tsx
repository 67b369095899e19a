import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPart } from '../testing/page';
import { catalogueOf, definition } from '../testing/catalogue';
import { Replacements } from './replacements';

const catalogue = catalogueOf([
  definition(191, 'tag', 'glaze.wood', 'wood', { family: 2 }),
  definition(192, 'tag', 'glaze.rice', 'rice', { family: 2 }),
]);
const SPLIT = {
  ...{ id: 6, from: 'glaze.ash', into: 'glaze.rice', by: 'wren@test.example', state: 'begun' as const, error: null },
  parts: [{ tag: 'glaze.wood', words: 'they are at the wheel for more than 3 years' }],
  ...{ madeAt: '2026-11-25T09:00:00Z', endedAt: null },
};

describe('splitting a tag', () => {
  const open = async (more: object = {}) => {
    const served = openPart(<Replacements tagKey="glaze.ash" retired={false} catalogue={catalogue} />, {
      'GET /api/app/tags/glaze.ash/replacements': { replacements: [] },
      'POST /api/app/tags/glaze.ash/replace/rehearse': {
        ...{ people: 12, both: 0, definitions: [{ kind: 'audience', key: 'keen', name: 'Keen' }] },
        parts: [
          { tag: 'glaze.wood', people: 5 },
          { tag: 'glaze.rice', people: 7 },
        ],
      },
      'POST /api/app/tags/glaze.ash/replace': SPLIT,
      ...more,
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Split …' }));
    return { ...served, dialog: within(await screen.findByRole('dialog', { name: 'Split glaze.ash into several' })) };
  };
  /** Types a condition of the part that is asked for. */
  const say = async (part: HTMLElement, words: string): Promise<void> => {
    await userEvent.type(within(part).getByRole('combobox', { name: 'Type a line' }), words);
    await waitFor(() => expect(within(part).getAllByRole('option').length).toBeGreaterThan(0));
    await userEvent.keyboard('{Enter}');
  };

  it('is rehearsed by who would get which, and then done', async () => {
    const { asked, dialog } = await open();
    const rehearse = dialog.getByRole('button', { name: 'Rehearse' });
    await userEvent.selectOptions(dialog.getByLabelText('Tag of part 1'), 'glaze.wood');
    await userEvent.selectOptions(dialog.getByLabelText('Tag of everyone else'), 'glaze.rice');
    // A part for whom nothing is said would be everyone.
    expect(rehearse).toBeDisabled();
    await say(dialog.getByRole('listitem', { name: 'Part 1' }), 'years at the wheel more than 3');
    await waitFor(() => expect(rehearse).toBeEnabled());
    await userEvent.click(rehearse);
    expect(await dialog.findByText(/7 people would get/)).toHaveTextContent('7 people would get glaze.rice');
    expect(dialog.getByText(/5 people would get/)).toHaveTextContent('5 people would get glaze.wood');
    expect(dialog.getByRole('link', { name: 'Keen' })).toBeInTheDocument();
    await userEvent.click(dialog.getByRole('button', { name: 'Split it' }));
    await waitFor(() => expect(screen.queryByRole('dialog')).not.toBeInTheDocument());
    const body = {
      into: 'glaze.rice',
      parts: [{ tag: 'glaze.wood', if: { match: 'all', of: [{ kind: 'field', of: 'contact', field: 'years', op: '>', value: 3 }] } }],
    };
    expect(asked('POST /api/app/tags/glaze.ash/replace/rehearse').map((each) => each.body)).toEqual([body]);
    expect(asked('POST /api/app/tags/glaze.ash/replace').map((each) => each.body)).toEqual([body]);
  });

  it('has as many parts as are wanted, and makes the tags that are not there yet', async () => {
    const { asked, dialog } = await open({
      'PUT /api/v1/definitions': { made: ['tag thrown'], changed: [], kept: [], retired: [], refused: [], epoch: 3, rehearsed: false },
    });
    await userEvent.click(dialog.getByRole('button', { name: '+ another part' }));
    expect(dialog.getByRole('listitem', { name: 'Part 2' })).toBeInTheDocument();
    await userEvent.selectOptions(dialog.getByLabelText('Tag of part 2'), 'a new tag …');
    await userEvent.type(dialog.getByLabelText('Name of the new tag, tag of part 2'), 'Thrown');
    await userEvent.click(dialog.getByRole('button', { name: 'Make it' }));
    await waitFor(() => expect(dialog.getByLabelText('Tag of part 2')).toHaveValue('glaze.thrown'));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({ tags: [{ key: 'glaze.thrown', name: 'Thrown', family: 'glaze' }] });
    await userEvent.click(dialog.getByRole('button', { name: 'Leave part 2 out' }));
    expect(dialog.queryByRole('listitem', { name: 'Part 2' })).toBeNull();
  });

  it('is told afterwards by what it became, and for whom', async () => {
    openPart(<Replacements tagKey="glaze.ash" retired catalogue={catalogue} />, {
      'GET /api/app/tags/glaze.ash/replacements': { replacements: [{ ...SPLIT, state: 'done' }] },
    });
    const list = await screen.findByRole('region', { name: 'Replacements' });
    await waitFor(() =>
      expect(list).toHaveTextContent(
        /glaze\.ash\s*split into\s*glaze\.wood\s*where they are at the wheel for more than 3 years;\s*everyone else:\s*glaze\.rice/,
      ),
    );
    expect(within(list).getByRole('button', { name: 'Take back' })).toBeInTheDocument();
  });
});
