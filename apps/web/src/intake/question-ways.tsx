import { canDecide, isChoice, type AskedIf, type FormBody, type Next, type Question } from '@eager-sieve/core';
import { Checks, Choice } from '../conditions/lines/inputs';
import { FaultsAt } from '../ui/faults-at';
import { tidy } from './question-list';

/** Where the way leads on, as the value of a select. */
const valueOf = (next: Next | undefined): string =>
  next === undefined ? '' : 'question' in next ? `?${next.question}` : next.end === true ? '.' : `.${next.end}`;
const nextOf = (value: string): Next | undefined =>
  value === '' ? undefined : value.startsWith('?') ? { question: value.slice(1) } : { end: value === '.' ? true : value.slice(1) };

/** Picks where the way leads from a question, or from a choice. */
export function NextInput({
  label,
  form,
  own,
  next,
  standard,
  onChange,
}: {
  label: string;
  form: FormBody;
  own: number;
  next: Next | undefined;
  /** what is said where nothing is picked */
  standard: string;
  onChange: (next: Next | undefined) => void;
}) {
  const questions = form.questions.flatMap((each, index): [string, string][] =>
    index > own && each.type !== 'hidden' ? [[`?${each.key}`, `to “${each.label || 'a question without words'}”`]] : [],
  );
  const ends = (form.outcomes ?? []).map(({ key, name }): [string, string] => [`.${key}`, `to the end “${name}”`]);
  return (
    <Choice
      label={label}
      value={valueOf(next)}
      choices={[['', standard], ...questions, ['.', 'to the end'], ...ends]}
      onPick={(value) => onChange(nextOf(value))}
    />
  );
}

/** When a question is asked, and where the way leads from it. */
export function QuestionWays({ form, index, onChange }: { form: FormBody; index: number; onChange: (question: Question) => void }) {
  const question = form.questions[index] as Question;
  const earlier = form.questions.slice(0, index).filter(canDecide);
  const askedIf = question.askedIf ?? [];
  const put = (next: readonly AskedIf[]): void => onChange(tidy({ ...question, askedIf: [...next] }));
  const first = earlier.at(-1);
  const label = question.label || question.key;
  return (
    <div className="mt-2 flex flex-col gap-1.5">
      {askedIf.map((asked, at) => (
        <div key={at} className="group flex flex-wrap items-center gap-2">
          <span>{at === 0 ? 'asked only if' : 'and'}</span>
          <AskedIfInput
            name={`${label}, condition ${at + 1}`}
            asked={asked}
            earlier={earlier}
            onChange={(next) => put(askedIf.with(at, next))}
          />
          <button type="button" className="row-tool" onClick={() => put(askedIf.toSpliced(at, 1))}>
            remove
          </button>
          <FaultsAt path={['questions', index, 'askedIf', at]} />
        </div>
      ))}
      <div className="flex flex-wrap items-center gap-2">
        {first && askedIf.length < 5 && (
          <button type="button" className="btn btn-xs" onClick={() => put([...askedIf, begun(first)])}>
            {askedIf.length === 0 ? 'Ask it only if …' : 'and if …'}
          </button>
        )}
        {question.type !== 'hidden' && (
          <label className="inline-flex items-center gap-1.5">
            then
            <NextInput
              label={`Where ${label} leads`}
              form={form}
              own={index}
              next={question.next}
              standard="to the next question"
              onChange={(next) => onChange(tidy({ ...question, next }))}
            />
          </label>
        )}
      </div>
    </div>
  );
}

const begun = (question: Question): AskedIf =>
  isChoice(question)
    ? { question: question.key, anyOf: (question.options ?? []).slice(0, 1).map(({ key }) => key) }
    : { question: question.key, from: question.min ?? 1 };

function AskedIfInput({
  name,
  asked,
  earlier,
  onChange,
}: {
  name: string;
  asked: AskedIf;
  earlier: readonly Question[];
  onChange: (asked: AskedIf) => void;
}) {
  const question = earlier.find(({ key }) => key === asked.question);
  const keys = 'anyOf' in asked ? asked.anyOf : 'noneOf' in asked ? asked.noneOf : [];
  return (
    <>
      <Choice
        label={`Question of ${name}`}
        value={asked.question}
        choices={earlier.map(({ key, label }) => [key, `“${label}”`])}
        onPick={(key) => {
          const picked = earlier.find((each) => each.key === key);
          if (picked) onChange(begun(picked));
        }}
      />
      {question && isChoice(question) ? (
        <>
          <Choice
            label={`How ${name} is answered`}
            value={'noneOf' in asked ? 'noneOf' : 'anyOf'}
            choices={[
              ['anyOf', 'is answered with one of'],
              ['noneOf', 'is not answered with'],
            ]}
            onPick={(how) =>
              onChange(how === 'noneOf' ? { question: asked.question, noneOf: [...keys] } : { question: asked.question, anyOf: [...keys] })
            }
          />
          <Checks
            label={`Choices of ${name}`}
            chosen={keys}
            choices={question.options ?? []}
            onChange={(chosen) =>
              onChange('noneOf' in asked ? { question: asked.question, noneOf: chosen } : { question: asked.question, anyOf: chosen })
            }
          />
        </>
      ) : (
        <>
          is from
          <Limit
            label={`Lowest answer of ${name}`}
            value={'from' in asked ? asked.from : undefined}
            onChange={(from) => onChange(limits(asked, { from }))}
          />
          to
          <Limit
            label={`Highest answer of ${name}`}
            value={'to' in asked ? asked.to : undefined}
            onChange={(to) => onChange(limits(asked, { to }))}
          />
        </>
      )}
    </>
  );
}

const limits = (asked: AskedIf, more: { readonly from?: number | undefined; readonly to?: number | undefined }): AskedIf => {
  const { from, to } = { ...('from' in asked || 'to' in asked ? asked : {}), ...more } as { from?: number; to?: number };
  return { question: asked.question, ...(from === undefined ? {} : { from }), ...(to === undefined ? {} : { to }) };
};

/** A number that may be left out. */
export function Limit({
  label,
  value,
  onChange,
  className = 'input input-sm w-20',
}: {
  label: string;
  value: number | undefined;
  onChange: (value: number | undefined) => void;
  className?: string;
}) {
  return (
    <input
      className={className}
      type="number"
      step="any"
      aria-label={label}
      value={value ?? ''}
      onChange={(event) => onChange(event.target.value === '' ? undefined : Number(event.target.value))}
    />
  );
}
