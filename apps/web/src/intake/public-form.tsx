import { useMemo, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { type FaultView, type Problem, type PublicForm as Form } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { statusOf, errorMessage } from '../app/errors';
import { Loading } from '../ui/states';

type Question = Form['questions'][number];
type Answer = string | boolean | readonly string[];

/** The public page of a form, for someone who is not signed in. */
export default function PublicForm() {
  const { key = '' } = useParams();
  const [search] = useSearchParams();
  const me = search.get('me') ?? undefined;
  const { data: form, error } = api.usePublicFormQuery({ key, ...(me === undefined ? {} : { me }) });
  return (
    <main className="mx-auto my-[8vh] w-[560px] max-w-[92vw]">
      {error ? (
        <p role="alert">{statusOf(error) === 404 ? 'This form is not open.' : errorMessage(error)}</p>
      ) : form ? (
        <Questions form={form} me={me} />
      ) : (
        <Loading />
      )}
    </main>
  );
}

function Questions({ form, me }: { form: Form; me: string | undefined }) {
  const emailKey = form.questions.find((question) => question.type === 'email')?.key;
  const [answers, setAnswers] = useState<Record<string, Answer>>(form.email && emailKey ? { [emailKey]: form.email } : {});
  const [website, setWebsite] = useState('');
  const [send, { isLoading, data: thanks, error }] = api.useAnswerFormMutation();
  // One id for this visit: sent twice, by a double click or a lost connection, it counts once.
  const submission = useMemo(() => crypto.randomUUID(), []);
  const faults = new Map(((error as { data?: Problem } | undefined)?.data?.faults ?? []).map((fault) => [String(fault.path[0]), fault]));
  if (thanks) {
    return (
      <div role="status">
        <h1 className="text-[24px]">{form.name}</h1>
        <p className="mt-2 text-[16px]">{thanks.thanks}</p>
        {thanks.confirm && (
          <p className="mt-2">If we need you to confirm that we may write to you, you get a message with a link for it.</p>
        )}
      </div>
    );
  }
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void send({ key: form.key, body: { submission, answers, ...(website ? { website } : {}), ...(me === undefined ? {} : { me }) } });
      }}
    >
      <h1 className="text-[26px]">{form.name}</h1>
      {form.intro && <p className="mt-1.5 mb-5 text-[15px]">{form.intro}</p>}
      {error && (
        <p role="alert" className="text-error mb-3 font-medium">
          {faults.size > 0 ? 'Some answers are missing or not right. Nothing you wrote is lost.' : errorMessage(error)}
        </p>
      )}
      <div className="flex flex-col gap-5">
        {form.questions.map((question) => (
          <QuestionField
            key={question.key}
            question={question}
            answer={answers[question.key]}
            fault={faults.get(question.key)}
            onChange={(answer) => setAnswers({ ...answers, [question.key]: answer })}
          />
        ))}
      </div>
      <div aria-hidden="true" className="absolute -left-[9999px]">
        <label>
          Leave this empty
          <input tabIndex={-1} autoComplete="off" value={website} onChange={(event) => setWebsite(event.target.value)} />
        </label>
      </div>
      <button className="btn btn-sm btn-primary mt-6 h-10 px-5 text-[15px]" disabled={isLoading}>
        {isLoading ? 'Sending …' : 'Send'}
      </button>
    </form>
  );
}

interface QuestionFieldProps {
  readonly question: Question;
  readonly answer: Answer | undefined;
  readonly fault: FaultView | undefined;
  readonly onChange: (answer: Answer) => void;
}

function QuestionField({ question, answer, fault, onChange }: QuestionFieldProps) {
  const id = `q-${question.key}`;
  const wrong = fault && (
    <p id={`${id}-fault`} className="text-error mt-1 text-[13px]">
      {fault.expected.charAt(0).toUpperCase() + fault.expected.slice(1)}, please.
    </p>
  );
  const label = (
    <>
      {question.label} {question.required && <span className="quiet font-normal">(needed)</span>}
    </>
  );
  if (question.type === 'consent') {
    return (
      <div>
        <label className="inline-flex cursor-pointer items-start gap-2 text-[15px]">
          <input
            type="checkbox"
            className="mt-1 accent-[var(--color-primary)]"
            checked={answer === true}
            onChange={(event) => onChange(event.target.checked)}
          />
          {label}
        </label>
        {wrong}
      </div>
    );
  }
  if (question.type === 'one choice' || question.type === 'several choices') {
    const several = question.type === 'several choices';
    const chosen = several ? ((answer as readonly string[] | undefined) ?? []) : [answer as string | undefined];
    return (
      <fieldset aria-describedby={fault ? `${id}-fault` : undefined}>
        <legend className="mb-1 text-[15px] font-medium">{label}</legend>
        {question.options.map((option) => (
          <label key={option.key} className="flex cursor-pointer items-center gap-2 py-0.5 text-[15px]">
            <input
              type={several ? 'checkbox' : 'radio'}
              name={id}
              className="checkbox checkbox-primary checkbox-xs"
              checked={chosen.includes(option.key)}
              onChange={(event) =>
                onChange(
                  several
                    ? event.target.checked
                      ? [...(chosen as string[]), option.key]
                      : (chosen as string[]).filter((key) => key !== option.key)
                    : option.key,
                )
              }
            />
            {option.name}
          </label>
        ))}
        {wrong}
      </fieldset>
    );
  }
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-[15px] font-medium">
        {label}
      </label>
      <input
        id={id}
        type={question.type === 'email' ? 'email' : 'text'}
        autoComplete={question.type === 'email' ? 'email' : undefined}
        className="input input-md w-full text-[15px]"
        value={(answer as string | undefined) ?? ''}
        aria-invalid={Boolean(fault)}
        aria-describedby={fault ? `${id}-fault` : undefined}
        onChange={(event) => onChange(event.target.value)}
      />
      {wrong}
    </div>
  );
}
