import fc from 'fast-check';
import { pageOf, wayOf, type Answers, type AnswerValue, type AskedIf, type Branching, type Next } from './branching.ts';
import { checkForm } from './form-faults.ts';
import { waysOf } from './ways.ts';

const CHOICES = ['a', 'b', 'c'];

/** A form of a few questions with any ways through it. */
const anyForm = (isForward: boolean): fc.Arbitrary<readonly Branching[]> =>
  fc
    .record({
      kinds: fc.array(fc.constantFrom('one choice', 'several choices', 'scale', 'text', 'consent', 'hidden'), {
        minLength: 1,
        maxLength: 5,
      }),
      emailAt: fc.nat(5),
    })
    .chain(({ kinds, emailAt }) => {
      const types = (kinds as Branching['type'][]).toSpliced(Math.min(emailAt, kinds.length), 0, 'email');
      const key = (at: number): string => `q${at}`;
      const shown = types.flatMap((type, at) => (type === 'hidden' ? [] : [at]));
      const questions = types.map((type, at): fc.Arbitrary<Branching> => {
        const targets = shown.filter((to) => !isForward || to > at);
        const next: fc.Arbitrary<Next> = fc.oneof(
          {
            weight: 3,
            arbitrary:
              targets.length > 0 ? fc.constantFrom(...targets).map((to) => ({ question: key(to) })) : fc.constant({ end: true as const }),
          },
          { weight: 1, arbitrary: fc.constant({ end: true as const }) },
        );
        const sometimes = <T>(arbitrary: fc.Arbitrary<T>): fc.Arbitrary<T | undefined> => fc.option(arbitrary, { nil: undefined, freq: 1 });
        const earlier = types.flatMap((each, place) => (place < at && (each.includes('choice') || each === 'scale') ? [place] : []));
        const among = fc.uniqueArray(fc.constantFrom(...CHOICES), { minLength: 1, maxLength: 2 });
        const asked: fc.Arbitrary<AskedIf> = fc
          .constantFrom(...(earlier.length > 0 ? earlier : [0]))
          .chain((place): fc.Arbitrary<AskedIf> => {
            if (types[place] === 'scale') return fc.integer({ min: 1, max: 3 }).map((from) => ({ question: key(place), from }));
            return fc.oneof(
              among.map((anyOf) => ({ question: key(place), anyOf })),
              among.map((noneOf) => ({ question: key(place), noneOf })),
            );
          });
        return fc.record({
          key: fc.constant(key(at)),
          label: fc.constant(key(at)),
          type: fc.constant(type),
          required: type === 'email' ? fc.constant(true) : fc.boolean(),
          options: type.includes('choice')
            ? fc.tuple(
                ...CHOICES.map((choice) =>
                  (type === 'one choice' ? sometimes(next) : fc.constant(undefined)).map((to) => ({ key: choice, name: choice, next: to })),
                ),
              )
            : fc.constant(undefined),
          min: fc.constant(type === 'scale' ? 1 : undefined),
          max: fc.constant(type === 'scale' ? 3 : undefined),
          next: type === 'hidden' ? fc.constant(undefined) : fc.option(next, { nil: undefined, freq: 4 }),
          askedIf: earlier.length > 0 ? sometimes(fc.array(asked, { minLength: 1, maxLength: 2 })) : fc.constant(undefined),
        });
      });
      return fc.tuple(...questions);
    });

/** Every answer to a question that can make a difference. */
function answersTo({ type, required }: Branching): readonly (AnswerValue | undefined)[] {
  const left = required ? [] : [undefined];
  switch (type) {
    case 'one choice':
      return [...CHOICES, ...left];
    case 'several choices':
      return [['a'], ['b'], ['c'], ['a', 'b'], ['a', 'c'], ['b', 'c'], CHOICES, ...left];
    case 'scale':
      return [1, 2, 3, ...left];
    case 'consent':
      return [true, ...left];
    default:
      return ['x'];
  }
}

function everyAnswer(questions: readonly Branching[]): readonly Answers[] {
  return questions.reduce<readonly Answers[]>(
    (so, question) =>
      so.flatMap((each) => answersTo(question).map((answer) => (answer === undefined ? each : { ...each, [question.key]: answer }))),
    [{}],
  );
}

describe('the ways through a form', () => {
  it('that only lead on are found exactly: what is reached, and where the address is not asked', () => {
    fc.assert(
      fc.property(anyForm(true), (questions) => {
        const ways = waysOf(questions);
        const taken = everyAnswer(questions).map((answers) => wayOf(questions, answers));
        const reached = new Set(taken.flatMap(({ asked }) => asked.map(({ key }) => key)));
        expect(ways.isComplete).toBe(true);
        expect(ways.endless).toBeUndefined();
        expect(taken.every(({ end }) => end === true)).toBe(true);
        expect(new Set(ways.unreached)).toEqual(
          new Set(questions.filter(({ key, type }) => type !== 'hidden' && !reached.has(key)).map(({ key }) => key)),
        );
        const isWithout = taken.some(({ asked }) => !asked.some(({ type }) => type === 'email'));
        expect(ways.withoutEmail !== undefined).toBe(isWithout);
        if (ways.withoutEmail)
          expect(wayOf(questions, ways.withoutEmail.answers).asked.map(({ key }) => key)).toEqual(ways.withoutEmail.asked);
        const links = new Set(taken.flatMap(({ asked }) => asked.map(({ key }, at) => `${key}>${asked[at + 1]?.key ?? ''}`)));
        expect(new Set(ways.links.map(({ from, to }) => `${from}>${to ?? ''}`))).toEqual(links);
      }),
      { numRuns: 400 },
    );
  });

  it('that lead back are endless wherever answers can come back to a question that they have passed', () => {
    fc.assert(
      fc.property(anyForm(false), (questions) => {
        const goesRound = everyAnswer(questions).some((answers) => wayOf(questions, answers).end === undefined);
        // Whoever comes by again may answer otherwise, so more can go round than answers that stay as they are.
        if (goesRound) expect(waysOf(questions).endless).toBeDefined();
      }),
      { numRuns: 400 },
    );
  });

  it('come in pages that together ask what the way asks, and never show a question before its way is known', () => {
    fc.assert(
      fc.property(anyForm(true), fc.nat(), (questions, seed) => {
        const all = everyAnswer(questions);
        const answers = all[seed % all.length] as Answers;
        const { asked } = wayOf(questions, answers);
        let given: Answers = Object.fromEntries(
          Object.entries(answers).filter(([key]) => questions.some((each) => each.key === key && each.type === 'hidden')),
        );
        const shown: string[] = [];
        for (let page = pageOf(questions, given, 0); page.length > 0; page = pageOf(questions, given, shown.length)) {
          for (const { key } of page) {
            shown.push(key);
            if (answers[key] !== undefined) given = { ...given, [key]: answers[key] };
          }
        }
        expect(shown).toEqual(asked.map(({ key }) => key));
      }),
    );
  });

  const question = (key: string, more: Partial<Branching> = {}): Branching => ({ key, label: key, type: 'text', required: false, ...more });
  const email = question('email', { type: 'email', required: true });

  it('hold back the publishing of a form that can go round, or ends without the address; a draft may', () => {
    const round = [question('one'), question('two', { next: { question: 'one' } }), email];
    const early = [
      question('go', {
        type: 'one choice',
        required: true,
        options: [
          { key: 'on', name: 'On' },
          { key: 'off', name: 'Off', next: { end: true } },
        ],
      }),
      email,
    ];
    const faults = (questions: readonly Branching[], published = true): readonly string[] =>
      checkForm({ published, questions }).map(({ expected }) => expected);
    expect(faults(round)).toEqual(['ways that end: “one”, “two”, “one” can go round for ever']);
    expect(faults(early)).toEqual(['the email address on every way: a way ends after “go” without it']);
    expect([...faults(round, false), ...faults(early, false)]).toEqual([]);
    expect(faults([question('one'), email])).toEqual([]);
  });

  it.each<[string, readonly Branching[], readonly (string | number)[]]>([
    ['a question that is not there', [question('a', { next: { question: 'z' } }), email], ['questions', 0, 'next']],
    ['an outcome that is not there', [question('a', { next: { end: 'z' } }), email], ['questions', 0, 'next']],
    ['an answer further down', [question('a', { askedIf: [{ question: 'email', anyOf: ['x'] }] }), email], ['questions', 0, 'askedIf', 0]],
    [
      'a choice that is not there',
      [
        question('c', { type: 'one choice', options: [{ key: 'x', name: 'X' }] }),
        question('a', { askedIf: [{ question: 'c', anyOf: ['y'] }] }),
        email,
      ],
      ['questions', 1, 'askedIf', 0],
    ],
    [
      'one of several choices as the way on',
      [question('c', { type: 'several choices', options: [{ key: 'x', name: 'X', next: { end: true } }] }), email],
      ['questions', 0, 'options', 0, 'next'],
    ],
    ['a scale of a thousand steps', [question('s', { type: 'scale', min: 0, max: 1_000 }), email], ['questions', 0, 'max']],
  ])('do not rest on %s', (_, questions, path) => {
    expect(checkForm({ published: false, questions }).map((fault) => fault.path)).toEqual([path]);
  });
});
