import { isChoice, scaleOf, wayOf, type Answers, type AnswerValue, type Question } from '@eager-sieve/core';
import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { type Draft } from '../app/use-draft';
import { Tried } from '../contacts/tried';
import { Labelled } from '../ui/labelled';
import { Check } from './question-editor';

/** The whole way as somebody made up goes it, and what would come of it. Nothing is kept. */
export function FormTry({ draft }: { draft: Draft<'form'> }) {
  const { body: form, isNew, itemKey, written } = draft;
  const [answers, setAnswers] = useState<Answers>({});
  const [tryIt, { data, error, isLoading, reset }] = api.useTryFormMutation();
  const { asked } = wayOf(form.questions, answers);
  const put = (key: string, value: AnswerValue | undefined): void => {
    const { [key]: _before, ...rest } = answers;
    setAnswers(value === undefined ? rest : { ...rest, [key]: value });
    reset();
  };
  const onWay = Object.fromEntries(Object.entries(answers).filter(([key]) => asked.some((question) => question.key === key)));
  return (
    <div className="grid grid-cols-2 gap-6 max-lg:grid-cols-1">
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          void tryIt({ body: { ...(isNew ? {} : { key: itemKey }), form: written(), answers: onWay } });
        }}
      >
        <p className="quiet">Answer as somebody would. Only the questions on their way are shown, and nothing is kept.</p>
        {asked.map((question) => (
          <TriedQuestion
            key={question.key}
            question={question}
            value={answers[question.key]}
            onChange={(value) => put(question.key, value)}
          />
        ))}
        <span className="flex gap-2">
          <button className="btn btn-sm btn-primary" disabled={isLoading}>
            {isLoading ? 'Trying …' : 'What would happen?'}
          </button>
          <button
            type="button"
            className="btn btn-sm"
            onClick={() => {
              setAnswers({});
              reset();
            }}
          >
            Begin anew
          </button>
        </span>
      </form>
      <section aria-live="polite" aria-label="What would happen">
        {error && (
          <p role="alert" className="text-error font-medium">
            {errorMessage(error)}
          </p>
        )}
        {data && (
          <div className="panel p-3.5">
            <p className="mb-2">
              {data.url !== null && data.thanks.trim() === '' ? (
                <>They come to {data.url} at once.</>
              ) : (
                <>
                  They read: {data.outcome && <b>{data.outcome}. </b>}“{data.thanks}”{data.url !== null && `, and can go on to ${data.url}`}
                </>
              )}
            </p>
            <Tried answer={data} />
          </div>
        )}
      </section>
    </div>
  );
}

function TriedQuestion({
  question,
  value,
  onChange,
}: {
  question: Question;
  value: AnswerValue | undefined;
  onChange: (value: AnswerValue | undefined) => void;
}) {
  const { label, type, options = [] } = question;
  if (type === 'email') return null;
  if (type === 'consent') return <Check words={label} checked={value === true} onChange={(checked) => onChange(checked || undefined)} />;
  if (isChoice(question)) {
    const chosen = [value].flat().filter((each) => each !== undefined);
    return (
      <fieldset>
        <legend className="mb-1 font-medium">{label}</legend>
        <span className="flex flex-wrap gap-x-4 gap-y-1">
          {options.map(({ key, name }) => (
            <label key={key} className="inline-flex min-h-6 cursor-pointer items-center gap-1.5">
              <input
                type={type === 'one choice' ? 'radio' : 'checkbox'}
                name={`try-${question.key}`}
                className={type === 'one choice' ? 'radio radio-primary radio-xs' : 'checkbox checkbox-primary checkbox-xs'}
                checked={chosen.includes(key)}
                onChange={(event) => {
                  if (type === 'one choice') return onChange(key);
                  const next = event.target.checked ? [...(chosen as string[]), key] : (chosen as string[]).filter((each) => each !== key);
                  onChange(next.length > 0 ? next : undefined);
                }}
              />
              {name}
            </label>
          ))}
        </span>
      </fieldset>
    );
  }
  const [low, high] = scaleOf(question);
  const isNumber = type === 'scale' || type === 'number';
  return (
    <Labelled label={`${label}${type === 'scale' ? ` (${low} to ${high})` : ''}`}>
      {type === 'long text' ? (
        <textarea
          className="textarea textarea-sm h-16 w-full"
          value={String(value ?? '')}
          onChange={(event) => onChange(event.target.value || undefined)}
        />
      ) : (
        <input
          className="input input-sm w-full"
          type={isNumber ? 'number' : type === 'date' ? 'date' : 'text'}
          step="any"
          value={typeof value === 'string' || typeof value === 'number' ? value : ''}
          onChange={(event) => onChange(event.target.value === '' ? undefined : isNumber ? Number(event.target.value) : event.target.value)}
        />
      )}
    </Labelled>
  );
}
