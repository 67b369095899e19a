import { type WhyNotView } from '@eager-sieve/contracts';
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { contactView } from '../testing/people';
import { openPage, Refused, type SentRequest } from '../testing/page';

const ANSWER: WhyNotView = {
  isSo: false,
  says: 'They do not have it.',
  ways: [
    {
      ...{ kind: 'rule', key: 'ash', name: 'Ash buyers', because: 'Not so: they have ordered.' },
      lines: [
        { words: 'It is on', holds: true },
        { words: 'any of these holds', holds: false, of: [{ words: 'they have ordered', holds: false }] },
      ],
    },
  ],
  before: [{ words: 'Tag glaze.ash removed', cause: 'the clock', at: '2026-11-20T09:00:00Z' }],
};
const open = (answer: object) =>
  openPage('/people/id-1', {
    'GET /api/v1/contacts/:id': contactView({}),
    'GET /api/app/contacts/id-1/why-not': answer,
  });
const choose = async (what: string): Promise<HTMLElement> => {
  await userEvent.click(await screen.findByRole('button', { name: 'Why not …?' }));
  const region = screen.getByRole('region', { name: 'Why not' });
  await userEvent.selectOptions(within(region).getByLabelText('What they do not have'), what);
  return region;
};

describe('why not', () => {
  it('tells of everything that could have given it what held it back, line by line, and what was done about it', async () => {
    const { asked } = open(ANSWER);
    const region = await choose('tag/glaze.ash');
    expect(await within(region).findByText('They do not have it.')).toBeInTheDocument();
    expect(within(region).getByRole('link', { name: 'Ash buyers' })).toHaveAttribute('href', '/rules/ash');
    expect(
      within(region)
        .getAllByRole('img')
        .map((mark) => mark.getAttribute('aria-label')),
    ).toEqual(['so', 'not so', 'not so']);
    expect(region).toHaveTextContent('Tag glaze.ash removed the clock');
    expect(asked('GET /api/app/contacts/id-1/why-not')[0]?.query).toEqual({ of: 'tag', key: 'glaze.ash' });
  });

  it('asks for a band of a score, the highest at first', async () => {
    const { asked } = open(({ query }: SentRequest) => ({ ...ANSWER, says: `Asked for ${query['band'] ?? ''}.`, ways: [], before: [] }));
    const region = await choose('scorecard/keen');
    const last = within(region).getByLabelText<HTMLSelectElement>('Band').value;
    expect(await within(region).findByText(`Asked for ${last}.`)).toBeInTheDocument();
    expect(within(region).getByText(/^Nothing gives it by itself/)).toBeInTheDocument();
    expect(asked('GET /api/app/contacts/id-1/why-not')[0]?.query).toMatchObject({ of: 'band', key: 'keen' });
  });

  it('says so where it cannot be told', async () => {
    open(new Refused(500, { title: 'It could not be told.' }));
    expect(await within(await choose('tag/glaze.ash')).findByText(/It could not be told/)).toBeInTheDocument();
  });
});
