import { capabilities, type Capability } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition, signalType } from '../testing/catalogue';
import { catalogueView, openPage, Refused } from '../testing/page';

const LONG = 'A name that goes on and on, as names do when two teams could not agree on one, '.repeat(2).trim().slice(0, 120);
const READING: readonly Capability[] = capabilities.filter((each) => each.endsWith(':read') && each !== 'settings:read');
const SAVED = { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
const more = [
  definition(70, 'map', 'plans', 'Plans', {
    adds: [signalType('plan.started')],
    takes: [signalType('plan.lapsed')],
    path: 'plan',
    reason: 'plan',
    rows: [{ value: 'bench', add: [3], remove: [] }],
    on: true,
  }),
  definition(71, 'rule', 'ash', 'Ash', {
    of: 'contact',
    when: { kind: 'signal', type: signalType('order.placed') },
    then: [{ do: 'add tag', tag: 3 }],
    howOften: {},
    beginsWith: 'from now on',
    maxAgeDays: 7,
    position: 1,
    on: true,
  }),
];

/** Pages of one definition each: where one is, what it is called there, and how its name and keeping are called. */
const PAGES = [
  { thing: 'rule', kind: 'rule', at: '/rules/ash', name: 'Name of the rule', keep: 'Keep changes', section: 'rules', fault: ['then', 0] },
  {
    thing: 'bundle',
    kind: 'bundle',
    at: '/rules/bundles/greet',
    name: 'Name of the bundle',
    keep: 'Keep changes',
    section: 'bundles',
    fault: ['then', 0],
  },
  {
    thing: 'signal map',
    kind: 'map',
    at: '/rules/maps/plans',
    name: 'Name of the signal map',
    keep: 'Keep changes',
    section: 'maps',
    fault: ['path'],
  },
  {
    thing: 'routing table',
    kind: 'routing',
    at: '/rules/routing/desk',
    name: 'Name of the routing table',
    keep: 'Keep changes',
    section: 'routing',
    fault: ['rows', 0],
  },
  {
    thing: 'scorecard',
    kind: 'scorecard',
    at: '/scores/keen',
    name: 'Name of the scorecard',
    keep: 'Keep changes',
    section: 'scorecards',
    fault: ['bands'],
  },
  {
    thing: 'tag',
    kind: 'tag',
    at: '/tags/glaze.ash',
    name: 'Name of the tag',
    keep: 'Keep changes',
    section: 'tags',
    fault: ['purpose'],
  },
  {
    thing: 'tag family',
    kind: 'family',
    at: '/tags/families/glaze',
    name: 'Name of the tag family',
    keep: 'Keep changes',
    section: 'families',
    fault: ['many'],
  },
  {
    thing: 'field',
    kind: 'field',
    at: '/settings/fields/years',
    name: 'Name of the field',
    keep: 'Keep changes',
    section: 'fields',
    fault: ['options'],
  },
] as const;
const answers = { 'GET /api/app/circles/:id': { circle: null }, 'GET /api/app/rules/ash/circle': { circle: null } };
const ANY = { 'POST /api/v1/audiences/count': { count: 0, of: 0, reachable: 0, asOf: '', lines: [] } };

describe.each(PAGES)('the page of a $thing', ({ thing, kind, at, name, keep, section, fault }) => {
  const key = at.split('/').at(-1) as string;

  it('says so where there is none, and leads on', async () => {
    openPage(at.replace(key, 'nothing-of-that-name'), { ...answers, ...ANY }, { more });
    expect(await screen.findByText(`There is no such ${thing}`)).toBeInTheDocument();
    expect(within(screen.getByRole('main')).getAllByRole('link').length).toBeGreaterThan(0);
  });

  it('keeps another name, however long', async () => {
    const { asked } = openPage(at, { ...answers, ...ANY, 'PUT /api/v1/definitions': SAVED }, { more });
    const input = await screen.findByLabelText(name);
    await userEvent.clear(input);
    await userEvent.click(input);
    await userEvent.paste(LONG);
    await userEvent.click(screen.getByRole('button', { name: keep }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ [section]: [{ key, name: LONG }] });
  });

  it('undoes what was changed, and does it again, by buttons and by keys', async () => {
    openPage(at, { ...answers, ...ANY }, { more });
    const input = await screen.findByLabelText<HTMLInputElement>(name);
    const before = input.value;
    expect(screen.queryByRole('button', { name: 'Undo' })).not.toBeInTheDocument();
    await userEvent.type(input, ' more');
    await userEvent.click(screen.getByRole('button', { name: 'Undo' }));
    expect(input).toHaveValue(before);
    expect(screen.getByRole('button', { name: 'Undo' })).toBeDisabled();
    await userEvent.click(screen.getByRole('button', { name: 'Redo' }));
    expect(input).toHaveValue(`${before} more`);
    screen.getByRole('button', { name: 'Undo' }).focus();
    await userEvent.keyboard('{Control>}z{/Control}');
    expect(input).toHaveValue(before);
    await userEvent.keyboard('{Control>}{Shift>}z{/Shift}{/Control}');
    expect(input).toHaveValue(`${before} more`);
    await userEvent.click(screen.getByRole('button', { name: 'Discard' }));
    expect(input).toHaveValue(before);
    await userEvent.keyboard('{Control>}z{/Control}');
    expect(input).toHaveValue(`${before} more`);
  });

  it('says at its head and beside the place why it was refused, and loses nothing', async () => {
    const refused = new Refused(422, {
      title: 'Nothing was saved.',
      faults: [{ path: [section, key, ...fault], code: 'some.fault', expected: 'something that can work' }],
    });
    openPage(at, { ...answers, ...ANY, 'PUT /api/v1/definitions': refused }, { more });
    const input = await screen.findByLabelText(name);
    await userEvent.type(input, ' anew');
    await userEvent.click(screen.getByRole('button', { name: keep }));
    expect(await screen.findByText('This could not be kept. Nothing that you entered is lost.')).toBeInTheDocument();
    expect(within(screen.getByRole('main')).getAllByText(/something that can work/)).toHaveLength(2);
    expect((input as HTMLInputElement).value).toMatch(/ anew$/);
  });

  it('can be read by who may change nothing, and offers no change', async () => {
    openPage(at, { ...answers, ...ANY }, { more, may: READING });
    const input = await screen.findByLabelText(name);
    expect(input).toHaveAttribute('readonly');
    expect(screen.queryByRole('button', { name: keep })).not.toBeInTheDocument();
    const main = within(screen.getByRole('main'));
    const open = [...main.queryAllByRole('textbox'), ...main.queryAllByRole('combobox'), ...main.queryAllByRole('spinbutton')].filter(
      (each) => !each.matches(':disabled') && !each.hasAttribute('readonly'),
    );
    expect(open.map((each) => each.getAttribute('aria-label'))).toEqual([]);
  });

  it('puts an earlier version into the draft, and keeps nothing by that', async () => {
    const saved = catalogueView(more).definitions.find((each) => each.key === key);
    const now = saved?.version ?? 1;
    const versions = [now, now - 1].map((version) => ({
      version,
      name: version === now ? saved?.name : 'As it was',
      at: '2026-05-01T10:00:00Z',
      by: 'ada@test.example',
      moved: version === now ? { 'membership joined': 2 } : {},
      body: saved?.body,
    }));
    const { asked } = openPage(at, { ...answers, ...ANY, [`GET /api/app/definitions/${kind}/${key}/versions`]: versions }, { more });
    await userEvent.click(await screen.findByLabelText(`More for this ${thing}`));
    await userEvent.click(screen.getByRole('button', { name: 'Versions' }));
    expect(await screen.findByText('It moved: 2 come into audiences.')).toBeInTheDocument();
    expect(screen.getByText(`called “${saved?.name}”`)).toBeInTheDocument();
    await userEvent.click(
      within(await screen.findByRole('row', { name: /^\d+ As it was/ })).getByRole('button', { name: 'Put into the draft' }),
    );
    expect(await screen.findByLabelText(name)).toHaveValue('As it was');
    expect(screen.getByRole('button', { name: keep })).toBeEnabled();
    expect(asked('PUT /api/v1/definitions')).toEqual([]);
  });

  it('is retired after a question, which says what uses it', async () => {
    const { asked } = openPage(at, { ...answers, ...ANY, 'PUT /api/v1/definitions': SAVED }, { more });
    await userEvent.click(await screen.findByLabelText(`More for this ${thing}`));
    await userEvent.click(screen.getByRole('button', { name: 'Retire …' }));
    await userEvent.click(screen.getByRole('button', { name: 'Leave it' }));
    expect(asked('PUT /api/v1/definitions')).toEqual([]);
    await userEvent.click(screen.getByRole('button', { name: 'Retire …' }));
    await userEvent.click(screen.getByRole('button', { name: 'Retire it' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({ [section]: [{ key, retire: true }] }));
    const notice = (await screen.findByText(/is retired\.$/)).closest('[role=status]');
    await userEvent.click(within(notice as HTMLElement).getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(2));
    const [back] = Object.values(asked('PUT /api/v1/definitions')[1]?.body as Record<string, { key: string; retire?: true }[]>).flat();
    expect(back).toMatchObject({ key });
    expect(back).not.toHaveProperty('retire');
  });

  it('comes back as it was where it is retired', async () => {
    const retired = catalogueView(more).definitions.map((each) => (each.key === key ? { ...each, retired: true } : each));
    const { asked } = openPage(
      at,
      { ...answers, ...ANY, 'GET /api/app/catalogue': { ...catalogueView([]), definitions: retired }, 'PUT /api/v1/definitions': SAVED },
      { more },
    );
    const back = await screen.findByRole('button', { name: 'Bring it back' });
    expect(screen.getByLabelText(name)).toHaveAttribute('readonly');
    expect(screen.queryByRole('button', { name: keep })).not.toBeInTheDocument();
    await userEvent.click(back);
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ [section]: [{ key, name: expect.any(String) }] });
    expect(JSON.stringify(asked('PUT /api/v1/definitions')[0]?.body)).not.toContain('retire');
  });
});

describe('what is used elsewhere', () => {
  it('is not deleted, and says by what it is used', async () => {
    const rule = definition(72, 'rule', 'greeting', 'Greeting', { ...more[1]?.body, then: [{ do: 'run bundle', bundle: bundleId() }] });
    const { asked } = openPage('/rules/bundles/greet', { ...answers, ...ANY }, { more: [...more, rule] });
    await userEvent.click(await screen.findByLabelText('More for this bundle'));
    await userEvent.click(screen.getByRole('button', { name: 'Delete …' }));
    const dialog = within(screen.getByRole('dialog', { name: /Delete/ }));
    expect(dialog.getByText(/cannot be deleted while these use it/)).toBeInTheDocument();
    expect(dialog.getByRole('link', { name: 'Greeting' })).toHaveAttribute('href', '/rules/greeting');
    expect(dialog.queryByRole('button', { name: 'Delete it' })).not.toBeInTheDocument();
    expect(asked('PUT /api/v1/definitions')).toEqual([]);
  });

  it('is copied switched off, under a name and key of its own', async () => {
    const { asked } = openPage('/rules/ash', { ...answers, ...ANY, 'PUT /api/v1/definitions': SAVED }, { more });
    await userEvent.click(await screen.findByLabelText('More for this rule'));
    await userEvent.click(screen.getByRole('button', { name: 'Duplicate' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ rules: [{ key: 'ash-copy', name: 'Ash, copy', on: false }] });
  });
});

const bundleId = (): number => catalogueView([]).definitions.find((each) => each.kind === 'bundle')?.id as number;
