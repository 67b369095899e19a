import { randomUUID } from 'node:crypto';
import {
  type ContactView,
  type FormResults,
  type MapAgain,
  type SingleAnswers,
  type TodayView,
  type TriedForm,
} from '@eager-sieve/contracts';
import { serverWith } from './harness';
import { SET_UP } from './world';

const NOTES = {
  published: true,
  questions: [
    {
      key: 'why',
      label: 'What stops you?',
      type: 'long text',
      groups: [{ key: 'dear', name: 'Too dear', words: ['dear', 'dyrt'], add: ['snag.price'] }],
    },
    { key: 'likes', label: 'How much?', type: 'scale' },
    { key: 'email', label: 'Your email address', type: 'email', required: true },
  ],
};

describe('what becomes of a form', () => {
  const { server, http, admin } = serverWith(SET_UP);
  beforeAll(async () => {
    await server().define({ forms: [{ key: 'notes', name: 'Notes', ...NOTES }] });
  });
  const get = async <T>(path: string): Promise<T> => (await http().get(path).set(admin()).expect(200)).body as T;
  const post = async <T>(path: string, body: object = {}): Promise<T> =>
    (await http().post(path).set(admin()).send(body).expect(200)).body as T;
  const answer = async (answers: object): Promise<void> => {
    await http().post('/api/public/forms/notes/answers').send({ submission: randomUUID(), answers }).expect(200);
    await server().idle();
  };
  const tagsOf = async (email: string): Promise<readonly string[]> =>
    ((await server().call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView).tags.map(({ key }) => key);

  it('is counted answer by answer, with what falls into no group', async () => {
    await answer({ why: 'It is dear', likes: 2, email: 'a@test.example' });
    await answer({ why: 'no room', likes: 5, email: 'b@test.example' });
    await answer({ why: 'no room', likes: 5, email: 'c@test.example' });
    const results = await get<FormResults>('/api/app/forms/notes/results?days=7');
    expect(results).toMatchObject({ sent: 3 });
    expect(results.questions[0]).toEqual({
      key: 'why',
      answered: 3,
      left: 0,
      distinct: 2,
      unmapped: 2,
      answers: [
        { answer: 'no room', people: 2, rows: [] },
        { answer: 'It is dear', people: 1, rows: ['Too dear'] },
      ],
    });
    expect(results.questions[1]?.answers).toEqual([
      { answer: '5', people: 2, rows: [] },
      { answer: '2', people: 1, rows: [] },
    ]);
    const { attention } = await get<TodayView>('/api/app/today');
    expect(attention).toContainEqual({
      kind: 'unmapped',
      words: '2 answers to “What stops you?” in the last 30 days fall into no group',
      link: '/intake/forms/notes?view=map',
    });
    // Addresses are read where they belong to somebody.
    expect(results.questions[2]).toMatchObject({ answered: 3, answers: [] });
  });

  it('is read answer by answer, page by page, and as a file whose cells run nothing', async () => {
    await answer({ why: '=1+1', email: 'd@test.example' });
    const first = await get<SingleAnswers>('/api/app/forms/notes/answers?limit=3');
    expect(first.rows.map(({ answers }) => answers['email'])).toEqual(['d@test.example', 'c@test.example', 'b@test.example']);
    const second = await get<SingleAnswers>(`/api/app/forms/notes/answers?limit=3&after=${first.after ?? ''}`);
    expect(second).toMatchObject({ rows: [{ answers: { likes: 2 } }], after: null });
    const { text } = await http().get('/api/app/forms/notes/answers?format=csv').set(admin()).expect(200);
    expect(text.split('\n')[0]).toBe('name,at,version,why,likes,email');
    expect(text).toContain("'=1+1");
  });

  it('is tried on somebody made up, kept or not, and nothing is kept of it', async () => {
    const questions = [
      {
        key: 'go',
        label: 'Go on?',
        type: 'one choice',
        required: true,
        options: [
          { key: 'no', name: 'No', add: ['snag.keen'], next: { end: 'bye' } },
          { key: 'yes', name: 'Yes' },
        ],
      },
      ...NOTES.questions,
    ];
    const form = {
      outcomes: [{ key: 'bye', name: 'Another time', thanks: 'Come again.' }],
      who: 'link',
      questions: questions.slice(0, -1),
    };
    const tried = await post<TriedForm>('/api/app/forms/try', { key: 'notes', form, answers: { go: 'no', why: 'off the way' } });
    expect(tried).toMatchObject({ asked: ['Go on?'], outcome: 'Another time', thanks: 'Come again.' });
    expect(tried.effects.map(({ words }) => words)).toContain('Tag snag.keen added');
    const wrong = await http()
      .post('/api/app/forms/try')
      .set(admin())
      .send({ form, answers: { go: 'maybe' } })
      .expect(422);
    expect(wrong.body).toMatchObject({ faults: [{ path: ['answers', 'go'] }] });
    expect(await get<SingleAnswers>('/api/app/forms/notes/answers')).toMatchObject({ rows: { length: 4 } });
  });

  it('maps what was answered before as it says now, once that has been rehearsed', async () => {
    const [why, ...rest] = NOTES.questions;
    const more = {
      ...NOTES,
      questions: [
        { ...why, groups: [...(why?.groups ?? []), { key: 'room', name: 'No room', words: ['room'], add: ['snag.keen'] }] },
        ...rest,
      ],
    };
    expect(await post<MapAgain>('/api/app/forms/map-again/rehearse', { key: 'notes', form: more })).toMatchObject({
      answered: 4,
      touched: 2,
      tags: [{ key: 'snag.keen', added: 2, removed: 0 }],
    });
    expect(await tagsOf('b@test.example')).toEqual([]);
    await server().define({ forms: [{ key: 'notes', name: 'Notes', ...more }] });
    expect(await post<MapAgain>('/api/app/forms/notes/map-again')).toMatchObject({ touched: 2 });
    expect(await tagsOf('b@test.example')).toEqual(['snag.keen']);
    expect(await tagsOf('a@test.example')).toEqual(['snag.price']);
    expect(await post<MapAgain>('/api/app/forms/notes/map-again')).toMatchObject({ answered: 4, touched: 0 });
  });
});
