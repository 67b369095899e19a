import { capabilities, type Capability, type FormResults } from '@eager-sieve/contracts';
import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition, signalType } from '../testing/catalogue';
import { openPage, Refused } from '../testing/page';

const READING: readonly Capability[] = capabilities.filter((each) => each.endsWith(':read'));
const SAVED = { made: [], changed: ['form find'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
const ANSWERS = definition(70, 'form', 'open-day', 'Open day', {
  intro: '',
  thanks: 'Thank you.',
  published: false,
  questions: [
    {
      key: 'glaze',
      label: 'Which glaze?',
      type: 'one choice',
      required: true,
      field: 5,
      options: [{ key: 'ash', name: 'ash', add: [3], remove: [4] }],
    },
    { key: 'email', label: 'Email', type: 'email', required: true },
  ],
});
const more = [ANSWERS];
const RESULTS = 'GET /api/app/forms/open-day/results';
const NOTHING_YET: FormResults = { views: 0, begun: 0, sent: 0, questions: [], ways: [] };
type Sent = { forms: [{ key: string; name: string; published: boolean; questions: { key: string; label: string; type: string }[] }] };

const FILE = {
  id: 4,
  name: 'raku.pdf',
  url: 'https://sieve.example/d/raku',
  bytes: 10,
  downloads: 0,
  madeAt: '2026-11-01T08:00:00Z',
  by: 'ada',
};

describe('the form builder', () => {
  it('leads to a page of one’s own, and takes a colour or that of the workspace', async () => {
    const answers = { 'PUT /api/v1/definitions': SAVED, [RESULTS]: NOTHING_YET, 'GET /api/app/files': [FILE] };
    const { asked } = openPage('/intake/forms/open-day?view=look', answers, { more });
    const page = await screen.findByLabelText('Page after the thanks');
    await waitFor(() => expect(document.querySelector('datalist option')).toHaveAttribute('value', FILE.url));
    await userEvent.type(page, FILE.url);
    await userEvent.clear(screen.getByLabelText('Words of thanks'));
    const colour = screen.getByLabelText('Colour of buttons and lines');
    expect(screen.queryByRole('button', { name: 'take the standard one' })).not.toBeInTheDocument();
    fireEvent.change(colour, { target: { value: '#204060' } });
    expect(screen.getByRole('button', { name: 'take the standard one' })).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Keep as draft' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ forms: [{ thanks: '', url: FILE.url, colour: '#204060' }] });
  });

  it('says where there is no such form, and leads on', async () => {
    openPage('/intake/forms/nothing');
    expect(await screen.findByText('There is no such form')).toBeInTheDocument();
    expect(screen.getByRole('link', { name: 'To Intake' })).toHaveAttribute('href', '/intake');
  });

  it('makes a form of questions in their order, and says what is still to do', async () => {
    const { asked, at } = openPage('/intake/forms/new', { 'PUT /api/v1/definitions': SAVED });
    expect(await screen.findByText(/To do before it can be published: give the form a name/)).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText('Name of the form'), 'Kiln day');
    await userEvent.click(screen.getByRole('button', { name: '+ text' }));
    expect(screen.getByRole('button', { name: 'Publish' })).toBeDisabled();
    const [question] = screen.getAllByLabelText('Question');
    await userEvent.type(question as HTMLElement, 'What do you fire?');
    await userEvent.tab();
    await userEvent.click(screen.getAllByRole('button', { name: 'Down' })[0] as HTMLElement);
    await userEvent.click(screen.getByRole('button', { name: 'Publish' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    const { forms } = asked('PUT /api/v1/definitions')[0]?.body as Sent;
    expect(forms[0]).toMatchObject({ key: 'kiln-day', name: 'Kiln day', published: true });
    expect(forms[0].questions.map(({ type }) => type)).toEqual(['email', 'text', 'consent']);
    expect(forms[0].questions[1]).toMatchObject({ label: 'What do you fire?', key: 'what-do-you-fire' });
    await waitFor(() => expect(at()).toBe('/intake/forms/kiln-day'));
  });

  it('says in its answer map what a choice does, and keeps that and the field of its question when something else changes', async () => {
    const { asked } = openPage('/intake/forms/open-day', { 'PUT /api/v1/definitions': SAVED, [RESULTS]: NOTHING_YET }, { more });
    expect(await screen.findByLabelText('Field that keeps Which glaze?')).toHaveDisplayValue('what stops them');
    await userEvent.click(screen.getByRole('tab', { name: 'Answer map' }));
    const row = within(await screen.findByRole('row', { name: /^ash/ }));
    expect(row.getAllByRole('listitem').map((each) => each.getAttribute('aria-label'))).toEqual([
      'add the tag glaze.ash',
      'remove the tag glaze.celadon',
      null,
    ]);
    await userEvent.click(screen.getByRole('tab', { name: 'Ending and look' }));
    await userEvent.type(screen.getByLabelText('Words of thanks'), ' See you.');
    await userEvent.click(screen.getByRole('button', { name: 'Keep as draft' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
      forms: [
        {
          key: 'open-day',
          thanks: 'Thank you. See you.',
          published: false,
          questions: [
            { key: 'glaze', field: 'stops', options: [{ key: 'ash', add: ['glaze.ash'], remove: ['glaze.celadon'] }] },
            { key: 'email' },
          ],
        },
      ],
    });
  });

  it('says beside the question why it was refused, and loses nothing', async () => {
    const refused = new Refused(422, {
      title: 'Nothing was saved.',
      faults: [{ path: ['forms', 'open-day', 'questions', 0, 'field'], code: 'some.fault', expected: 'a field that can keep it' }],
    });
    openPage('/intake/forms/open-day', { 'PUT /api/v1/definitions': refused }, { more });
    const input = await screen.findByLabelText('Name of the form');
    await userEvent.type(input, ' in May');
    await userEvent.click(screen.getByRole('button', { name: 'Publish' }));
    expect(await screen.findByText('This could not be kept. Nothing that you entered is lost.')).toBeInTheDocument();
    expect(within(screen.getByRole('main')).getAllByText(/a field that can keep it/)).toHaveLength(2);
    expect(input).toHaveValue('Open day in May');
    await userEvent.click(screen.getByRole('button', { name: 'Discard' }));
    expect(input).toHaveValue('Open day');
  });

  it('says what a new version takes from what asks for its answers', async () => {
    const published = { ...ANSWERS, body: { ...ANSWERS.body, published: true } } as typeof ANSWERS;
    const rule = definition(71, 'rule', 'ash', 'Likes ash', {
      on: true,
      when: { kind: 'signal', type: signalType('form.answered'), where: [{ path: 'answers.glaze', op: 'is', value: 'ash' }] },
      then: [{ do: 'add tag', tag: 3 }],
    });
    openPage('/intake/forms/open-day', {}, { more: [published, rule] });
    await screen.findByLabelText('Name of the form');
    expect(screen.queryByRole('region', { name: 'What this version takes away' })).not.toBeInTheDocument();
    await userEvent.click(screen.getAllByRole('button', { name: 'Remove' })[0] as HTMLElement);
    const lost = within(await screen.findByRole('region', { name: 'What this version takes away' }));
    expect(lost.getByText(/“Which glaze\?” is not asked any more/)).toBeInTheDocument();
    expect(lost.getByRole('link', { name: 'Likes ash' })).toHaveAttribute('href', '/rules/ash');
  });

  it('is only read by those who may not change it', async () => {
    openPage('/intake/forms/open-day', {}, { more, may: READING });
    expect(await screen.findByLabelText('Name of the form')).toHaveAttribute('readonly');
    expect(screen.queryByRole('button', { name: 'Publish' })).not.toBeInTheDocument();
    const open = [...screen.getAllByRole('textbox'), ...screen.getAllByRole('combobox')].filter(
      (each) => !each.matches(':disabled') && !each.hasAttribute('readonly'),
    );
    expect(open).toEqual([]);
  });
});
