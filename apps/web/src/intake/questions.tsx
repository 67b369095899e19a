import { keyFrom, type Catalogue, type Question } from '@eager-sieve/core';
import { ChoiceList } from '../ui/choice-list';
import { FaultsAt } from '../ui/faults-at';

const TYPES: readonly (readonly [Question['type'], string])[] = [
  ['text', 'text'],
  ['one choice', 'one choice'],
  ['several choices', 'several choices'],
  ['email', 'email address'],
  ['consent', 'consent to email'],
];

interface QuestionsProps {
  readonly questions: readonly Question[];
  readonly catalogue: Catalogue;
  readonly onChange: (questions: Question[]) => void;
}

/** The questions of a form, in the order in which they are asked. */
export function Questions({ questions, catalogue, onChange }: QuestionsProps) {
  return (
    <>
      <ol className="flex flex-col gap-2.5">
        {questions.map((question, index) => (
          <li key={index} className="panel p-3.5">
            <FaultsAt path={['questions', index]} />
            <QuestionEditor
              question={question}
              catalogue={catalogue}
              taken={new Set(questions.filter((_, at) => at !== index).map((each) => each.key))}
              onChange={(next) => onChange(questions.with(index, next))}
            />
            <div className="mt-2 flex gap-2">
              <button
                type="button"
                className="btn btn-xs"
                disabled={index === 0}
                onClick={() => onChange(swapped(questions, index, index - 1))}
              >
                Up
              </button>
              <button
                type="button"
                className="btn btn-xs"
                disabled={index === questions.length - 1}
                onClick={() => onChange(swapped(questions, index, index + 1))}
              >
                Down
              </button>
              <button type="button" className="btn btn-xs" onClick={() => onChange(questions.toSpliced(index, 1))}>
                Remove
              </button>
            </div>
          </li>
        ))}
      </ol>
      <div className="mt-3 flex flex-wrap gap-2">
        {TYPES.map(([type, words]) => (
          <button key={type} type="button" className="btn btn-xs" onClick={() => onChange([newQuestion(type, questions), ...questions])}>
            + {words}
          </button>
        ))}
      </div>
    </>
  );
}

function swapped<T>(list: readonly T[], a: number, b: number): T[] {
  const next = [...list];
  [next[a], next[b]] = [next[b] as T, next[a] as T];
  return next;
}

function newQuestion(type: Question['type'], questions: readonly Question[]): Question {
  const taken = new Set(questions.map((question) => question.key));
  const base = type === 'email' ? 'email' : type === 'consent' ? 'consent' : 'question';
  let key = base;
  for (let n = 2; taken.has(key); n += 1) key = `${base}-${n}`;
  return {
    key,
    label: '',
    type,
    required: type === 'email',
    ...(type.includes('choice') ? { options: [] } : {}),
    ...(type === 'consent' ? { channel: 'email' as const } : {}),
  };
}

interface QuestionEditorProps {
  readonly question: Question;
  readonly catalogue: Catalogue;
  readonly taken: ReadonlySet<string>;
  readonly onChange: (question: Question) => void;
}

function QuestionEditor({ question, catalogue, taken, onChange }: QuestionEditorProps) {
  const { field, ...withoutField } = question;
  const fields = catalogue
    .all('field')
    .filter(
      (each) =>
        !['email', 'added'].includes(each.key) &&
        (question.type === 'text' ? ['text', 'long text'].includes(each.body.type) : question.type === each.body.type),
    );
  const tagKey = (id: number): string => catalogue.get('tag', id)?.key ?? '';
  const choices = question.type.includes('choice');
  /** A key that was made from the words follows them until the form is first published under it. */
  const named = (label: string): Question => ({
    ...question,
    label,
    ...(/^question(-\d+)?$/.test(question.key) && label.trim() ? { key: keyFrom(label, taken).replaceAll('.', '-').slice(0, 60) } : {}),
  });
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-3 gap-y-2">
      <label className="block">
        <span className="sr-only">Question</span>
        <input
          className="input input-sm w-full font-medium"
          aria-label="Question"
          placeholder="What do you ask?"
          value={question.label}
          onChange={(event) => onChange({ ...question, label: event.target.value })}
          onBlur={(event) => onChange(named(event.target.value))}
        />
      </label>
      <span className="quiet self-center">
        {question.type} · <span className="font-mono text-[12px]">{question.key}</span>
      </span>
      {choices && (
        <ChoiceList
          label={`Choices of ${question.label || question.key}`}
          choices={question.options ?? []}
          onChange={(options) => onChange({ ...question, options })}
          noteOf={(choice) =>
            [
              ...(choice.add ?? []).map((tag) => `adds ${tagKey(tag)}`),
              ...(choice.remove ?? []).map((tag) => `takes off ${tagKey(tag)}`),
            ].join(', ')
          }
        />
      )}
      <div className="flex flex-wrap items-center gap-4 self-start">
        <label className="inline-flex cursor-pointer items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs"
            checked={question.required}
            disabled={question.type === 'email'}
            onChange={(event) => onChange({ ...question, required: event.target.checked })}
          />
          must be answered
        </label>
        {fields.length > 0 && (
          <label className="inline-flex items-center gap-1.5">
            kept in
            <select
              className="select select-sm w-auto"
              aria-label={`Field that keeps ${question.label || question.key}`}
              value={field ?? ''}
              onChange={(event) => onChange(event.target.value ? { ...question, field: Number(event.target.value) } : withoutField)}
            >
              <option value="">no field</option>
              {fields.map((each) => (
                <option key={each.key} value={each.id}>
                  {each.name}
                </option>
              ))}
            </select>
          </label>
        )}
      </div>
    </div>
  );
}
