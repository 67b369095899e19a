import { capabilities, TAG_WEEKS, type Capability, type TagFiguresView, type TagReplacementView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { catalogueView, openPage, Refused } from '../testing/page';

const READING: readonly Capability[] = capabilities.filter((each) => each.endsWith(':read'));
const SAVED = { made: ['tag glaze.shino'], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
const NONE = new Array<number>(TAG_WEEKS).fill(0);
const figure = (key: string, more: Partial<TagFiguresView['tags'][number]> = {}): TagFiguresView['tags'][number] => ({
  key,
  people: 12,
  withoutValue: 0,
  given: NONE.with(-1, 3),
  lost: NONE,
  lastGivenAt: new Date().toISOString(),
  givenByOthers: true,
  ...more,
});
const counted = (more: Partial<TagFiguresView> = {}): { 'GET /api/app/tags/figures': TagFiguresView } => ({
  'GET /api/app/tags/figures': { tags: [figure('glaze.ash'), figure('glaze.celadon')], overlaps: [], ...more },
});
const COUNTED = counted();
const emptyPlan = { ...catalogueView([]), definitions: [] };

describe('the tag plan', () => {
  it('stands in the order in which its families are put, and keeps all that is said of them', async () => {
    const family = (id: number, name: string, body: object = {}) =>
      definition(id, 'family', name.toLowerCase(), name, { prefix: name.toLowerCase(), purpose: '', many: false, ...body });
    const more = [family(190, 'Later'), family(191, 'First', { position: 1, minder: 'wren@test.example' })];
    const { asked } = openPage('/tags', { ...COUNTED, 'PUT /api/v1/definitions': SAVED }, { more });
    const names = async (): Promise<(string | null)[]> =>
      (await screen.findAllByRole('heading', { level: 2 })).map((heading) => heading.firstChild?.textContent ?? null);
    const shown = await names();
    expect(shown[0]).toBe('First');
    expect(shown.at(-1)).toBe('Later');
    await userEvent.click(screen.getByRole('button', { name: 'Later up' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    const { families } = asked('PUT /api/v1/definitions')[0]?.body as { families: { key: string; position: number; minder?: string }[] };
    expect(families.map(({ position }) => position)).toEqual(families.map((_, index) => index + 1));
    expect(families.at(-2)).toMatchObject({ key: 'later', many: false });
    expect(families[0]).toMatchObject({ key: 'first', minder: 'wren@test.example' });
  });

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

describe('what is worth a look in the plan', () => {
  const opened = (figures: TagFiguresView['tags'], overlaps: TagFiguresView['overlaps'] = []) =>
    openPage('/tags?show=look', { ...counted({ tags: figures, overlaps }), 'PUT /api/v1/definitions': SAVED });

  it('stands by what is the matter, with the tags and what is known of them', async () => {
    opened(
      [figure('glaze.ash', { people: 0, lastGivenAt: null, givenByOthers: false }), figure('glaze.celadon'), figure('glaze.since')],
      [{ tags: ['glaze.celadon', 'glaze.since'], both: 12 }],
    );
    const never = await screen.findByRole('region', { name: 'Never given' });
    expect(never).toHaveTextContent('Nobody has ever been given it.');
    expect(within(never).getByRole('link', { name: 'glaze.ash' })).toHaveAttribute('href', '/tags/glaze.ash');
    expect(screen.getByRole('region', { name: 'Nearly the same people' })).toHaveTextContent('12 of the 12 people');
    expect(screen.getByRole('tab', { name: /^Worth a look \(\d+\)$/ })).toHaveAttribute('aria-selected', 'true');
  });

  it('lets a tag that nobody misses be retired, and that be undone', async () => {
    const { asked } = opened([figure('glaze.ash', { people: 0, lastGivenAt: null })]);
    const never = await screen.findByRole('region', { name: 'Never given' });
    await userEvent.click(within(never).getByRole('button', { name: 'Retire glaze.ash' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    await userEvent.click(await screen.findByRole('button', { name: /^Undo/ }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(2));
    expect(asked('PUT /api/v1/definitions').map(({ body }) => (body as { tags: object[] }).tags[0])).toEqual([
      { key: 'glaze.ash', retire: true },
      expect.objectContaining({ key: 'glaze.ash', name: 'ash', family: 'glaze' }),
    ]);
  });
});

describe('replacing a tag by another', () => {
  const replacement = (state: TagReplacementView['state']): TagReplacementView => ({
    ...{
      id: 5,
      from: 'glaze.ash',
      into: 'glaze.celadon',
      parts: [],
      by: 'ada@test.example',
      state,
      error: state === 'stopped' ? 'rule first: a tag that exists' : null,
    },
    ...{ madeAt: '2026-11-25T09:00:00Z', endedAt: null },
  });

  it('is rehearsed first, by its people and by what names it', async () => {
    const { asked } = openPage('/tags/glaze.ash?by=glaze.celadon', {
      ...COUNTED,
      'GET /api/app/tags/glaze.ash/replacements': { replacements: [] },
      'POST /api/app/tags/glaze.ash/replace/rehearse': {
        people: 12,
        both: 3,
        parts: [],
        definitions: [{ kind: 'audience', key: 'keen', name: 'Keen' }],
      },
      'POST /api/app/tags/glaze.ash/replace': replacement('begun'),
    });
    expect(await screen.findByRole('button', { name: 'Replace it' })).toBeDisabled();
    await userEvent.click(screen.getByRole('button', { name: 'Rehearse' }));
    expect(await screen.findByText('12 people would get glaze.celadon; 3 of them have it already.')).toBeInTheDocument();
    expect(screen.getByRole('link', { name: 'Keen' })).toHaveAttribute('href', '/audiences/keen');
    await userEvent.click(screen.getByRole('button', { name: 'Replace it' }));
    await waitFor(() => expect(asked('POST /api/app/tags/glaze.ash/replace')).toHaveLength(1));
    expect(asked('POST /api/app/tags/glaze.ash/replace')[0]?.body).toEqual({ into: 'glaze.celadon', parts: [] });
  });

  it('says how far it is, and is taken back once it is done', async () => {
    const { asked } = openPage('/tags/glaze.celadon', {
      ...COUNTED,
      'GET /api/app/tags/glaze.celadon/replacements': { replacements: [replacement('done')] },
      'POST /api/app/tag-replacements/5/take-back': replacement('taking back'),
    });
    const replacements = await screen.findByRole('region', { name: 'Replacements' });
    expect(await within(replacements).findByText('done')).toBeInTheDocument();
    await userEvent.click(within(replacements).getByRole('button', { name: 'Take back' }));
    await waitFor(() => expect(asked('POST /api/app/tag-replacements/5/take-back')).toHaveLength(1));
  });

  it('is called something else in other languages, each said once', async () => {
    const { asked } = openPage('/tags/glaze.ash', {
      ...COUNTED,
      'GET /api/app/tags/glaze.ash/replacements': { replacements: [] },
      'PUT /api/v1/definitions': { made: [], changed: ['tag glaze.ash'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    await userEvent.selectOptions(await screen.findByLabelText('Add a language'), 'Swedish');
    await userEvent.type(screen.getByLabelText('What it is called in Swedish'), 'askglasyr');
    await userEvent.selectOptions(screen.getByLabelText('Add a language'), 'Finnish');
    expect(within(screen.getByLabelText('Add a language')).queryByRole('option', { name: 'Swedish' })).toBeNull();
    await userEvent.click(screen.getByRole('button', { name: 'Take Finnish out' }));
    await userEvent.click(screen.getByRole('button', { name: 'Keep changes' }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ tags: [{ key: 'glaze.ash', labels: { sv: 'askglasyr' } }] }),
    );
  });

  it('says why it stopped, and what to do', async () => {
    openPage('/tags/glaze.ash', { ...COUNTED, 'GET /api/app/tags/glaze.ash/replacements': { replacements: [replacement('stopped')] } });
    expect(await screen.findByRole('alert')).toHaveTextContent('rule first: a tag that exists. Its people have both tags');
    expect(screen.getByRole('button', { name: 'Take back' })).toBeEnabled();
  });

  it('asks anew for what was defined when it is over', async () => {
    let state: TagReplacementView['state'] = 'taking off';
    const { asked } = openPage('/tags/glaze.ash', {
      ...COUNTED,
      'GET /api/app/tags/glaze.ash/replacements': () => ({ replacements: [replacement(state)] }),
    });
    expect(await screen.findByText('it is being taken off its people …')).toBeInTheDocument();
    const before = asked('GET /api/app/catalogue').length;
    state = 'done';
    expect(await screen.findByText('done', undefined, { timeout: 4_000 })).toBeInTheDocument();
    await waitFor(() => expect(asked('GET /api/app/catalogue').length).toBeGreaterThan(before));
  });

  it('says why two cannot stand for each other', async () => {
    openPage('/tags/glaze.ash', {
      ...COUNTED,
      'GET /api/app/tags/glaze.ash/replacements': { replacements: [] },
      'POST /api/app/tags/glaze.ash/replace/rehearse': new Refused(422, { title: 'These two cannot stand for each other.' }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Replace by another tag …' }));
    await userEvent.selectOptions(screen.getByLabelText(/^By/), 'glaze.since');
    await userEvent.click(screen.getByRole('button', { name: 'Rehearse' }));
    expect(await screen.findByText(/These two cannot stand for each other/)).toBeInTheDocument();
  });
});

describe('a tag under another key', () => {
  const PAGE = {
    ...COUNTED,
    'GET /api/app/tags/glaze.ash/replacements': { replacements: [] },
    'PUT /api/v1/definitions': SAVED,
    'POST /api/app/tags/glaze.ash/replace': {
      ...{ id: 5, from: 'glaze.ash', into: 'glaze.wood-ash', parts: [], by: 'wren@test.example', state: 'begun', error: null },
      ...{ madeAt: new Date().toISOString(), endedAt: null },
    },
  } as const;
  const open = async () => {
    const page = openPage('/tags/glaze.ash', PAGE);
    await userEvent.click(await screen.findByRole('button', { name: 'Rename or move …' }));
    return { ...page, dialog: within(screen.getByRole('dialog')) };
  };

  it('is made as it is, and takes its place, after it was said who has it', async () => {
    const { asked, dialog } = await open();
    const act = dialog.getByRole('button', { name: 'Rename it' });
    expect(act).toBeDisabled();
    await userEvent.clear(dialog.getByLabelText('Key within the family'));
    await userEvent.type(dialog.getByLabelText('Key within the family'), 'Wood ash');
    await waitFor(() => expect(dialog.getByRole('status')).toHaveTextContent('glaze.ash becomes glaze.wood-ash: 12 people have it.'));
    await userEvent.click(act);
    await waitFor(() => expect(asked('POST /api/app/tags/glaze.ash/replace')[0]?.body).toEqual({ into: 'glaze.wood-ash', parts: [] }));
    const { tags } = asked('PUT /api/v1/definitions')[0]?.body as { tags: Record<string, unknown>[] };
    expect(tags).toEqual([expect.objectContaining({ key: 'glaze.wood-ash', family: 'glaze' })]);
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  });

  it('is no key that another tag has', async () => {
    const { dialog } = await open();
    await userEvent.clear(dialog.getByLabelText('Key within the family'));
    await userEvent.type(dialog.getByLabelText('Key within the family'), 'celadon');
    expect(dialog.getByRole('status')).toHaveTextContent('There is a tag glaze.celadon already.');
    expect(dialog.getByRole('button', { name: 'Rename it' })).toBeDisabled();
  });
});

describe('a plan in a spreadsheet', () => {
  const choose = async (csv: string): Promise<void> => {
    const file = new File([csv], 'plan.csv', { type: 'text/csv' });
    file.text = () => Promise.resolve(csv);
    await userEvent.upload(await screen.findByLabelText('Plan from CSV'), file);
  };
  it('is taken in after it has been said what is new', async () => {
    const { asked } = openPage('/tags', { ...COUNTED, 'PUT /api/v1/definitions': SAVED });
    await choose('family,name\nGlaze,shino\nCraft,throws\n');
    expect(await screen.findByText('It holds 1 new family, 2 new tags. What it leaves out stays as it is.')).toBeInTheDocument();
    expect(asked('PUT /api/v1/definitions')).toHaveLength(0);
    await userEvent.click(screen.getByRole('button', { name: 'Take it into the plan' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(screen.queryByText('Plan from a spreadsheet')).not.toBeInTheDocument();
  });

  it('is not taken in where a row cannot be read, or nothing is new', async () => {
    openPage('/tags', COUNTED);
    await choose('family,name\n,shino\n');
    expect(await screen.findByText('Row 2: it says no family.')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Close' }));
    await choose('family,name\nGlaze,ash\n');
    expect(await screen.findByText('All that it says stands in the plan already.')).toBeInTheDocument();
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
