import { askedIfWords, isNumeric, keyFrom, nextWords, ownFields, type Catalogue, type FormBody, type Question } from '@eager-sieve/core';
import { useState, type ReactNode } from 'react';
import { Choice } from '../conditions/lines/inputs';
import { ChoiceList } from '../ui/choice-list';
import { FaultsAt } from '../ui/faults-at';
import { canBeKept, retyped, tidy, TYPE_WORDS } from './question-list';
import { DayInput } from '../ui/day-input';
import { Limit, NextInput, QuestionWays } from './question-ways';

interface QuestionEditorProps {
  readonly form: FormBody;
  readonly index: number;
  readonly catalogue: Catalogue;
  readonly onChange: (question: Question) => void;
}

/** One question: its words, what can be answered, and behind a fold what few questions need. */
export function QuestionEditor({ form, index, catalogue, onChange }: QuestionEditorProps) {
  const question = form.questions[index] as Question;
  const taken = new Set(form.questions.filter((_, at) => at !== index).map((each) => each.key));
  const { field, ...withoutField } = question;
  const fields = catalogue
    .all('field')
    .filter((each) => each.body.of === 'contact' && !ownFields.includes(each.key) && canBeKept(question, each.body.type));
  const label = question.label || question.key;
  /** A key that was made from the words follows them until the form is first published under it. */
  const named = (words: string): Question => ({
    ...question,
    label: words,
    ...(/^question(-\d+)?$/.test(question.key) && words.trim() ? { key: keyFrom(words, taken).replaceAll('.', '-').slice(0, 60) } : {}),
  });
  return (
    <div className="flex flex-col gap-2">
      {question.section && <Section question={question} onChange={onChange} />}
      <div className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-3">
        <input
          className="input input-sm w-full font-medium"
          aria-label="Question"
          placeholder={question.type === 'hidden' ? 'What is it, in your own words?' : 'What do you ask?'}
          value={question.label}
          onChange={(event) => onChange({ ...question, label: event.target.value })}
          onBlur={(event) => onChange(named(event.target.value))}
        />
        <Choice
          label={`Type of ${label}`}
          value={question.type}
          choices={TYPE_WORDS}
          onPick={(type) => onChange(retyped(question, type as Question['type']))}
        />
      </div>
      {question.type.includes('choice') && (
        <ChoiceList
          label={`Choices of ${label}`}
          choices={question.options ?? []}
          onChange={(options) => onChange({ ...question, options })}
          noteOf={(choice) => (choice.next ? `leads ${nextWords(form, choice.next)}` : '')}
        />
      )}
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5">
        {question.type !== 'hidden' && (
          <Check
            words="must be answered"
            checked={question.required}
            disabled={question.type === 'email'}
            onChange={(required) => onChange({ ...question, required })}
          />
        )}
        {fields.length > 0 && (
          <label className="inline-flex items-center gap-1.5">
            kept in
            <select
              className="select select-sm w-auto"
              aria-label={`Field that keeps ${label}`}
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
        {question.type === 'hidden' && (
          <label className="inline-flex items-center gap-1.5">
            filled in from
            <input
              className="input input-sm w-40"
              aria-label={`Parameter of the address for ${label}`}
              value={question.parameter ?? ''}
              onChange={(event) => onChange({ ...question, parameter: event.target.value })}
            />
            in the address
          </label>
        )}
        {question.type === 'consent' && (
          <label className="inline-flex items-center gap-1.5">
            to be written to by
            <Choice
              label={`Channel of ${label}`}
              value={question.channel ?? 'email'}
              choices={[
                ['email', 'email'],
                ['text', 'text message'],
                ['chat', 'chat'],
              ]}
              onPick={(channel) => onChange({ ...question, channel: channel as 'email' })}
            />
          </label>
        )}
      </div>
      {question.type !== 'several choices' && <Limits question={question} onChange={onChange} />}
      <Fold summary={foldWords(form, question)} label={label}>
        {question.type !== 'hidden' && (
          <label className="mt-2 block">
            <span className="quiet block text-[12.5px]">Help below the question</span>
            <input
              className="input input-sm w-full"
              aria-label={`Help at ${label}`}
              value={question.help ?? ''}
              onChange={(event) => onChange(tidy({ ...question, help: event.target.value }))}
            />
          </label>
        )}
        {question.type === 'several choices' && (
          <div className="mt-2">
            <Limits question={question} onChange={onChange} />
          </div>
        )}
        {question.type === 'one choice' && <ChoiceWays form={form} index={index} onChange={onChange} />}
        <QuestionWays form={form} index={index} onChange={onChange} />
        {!question.section && question.type !== 'hidden' && (
          <button type="button" className="btn btn-xs mt-2" onClick={() => onChange({ ...question, section: { name: 'A new part' } })}>
            Begin a part here
          </button>
        )}
      </Fold>
      <FaultsAt path={['questions', index, 'next']} />
    </div>
  );
}

export function Check({
  words,
  checked,
  disabled = false,
  onChange,
}: {
  words: ReactNode;
  checked: boolean;
  disabled?: boolean;
  onChange: (checked: boolean) => void;
}) {
  return (
    <label className="inline-flex min-h-6 cursor-pointer items-center gap-1.5">
      <input
        type="checkbox"
        className="checkbox checkbox-primary checkbox-xs"
        checked={checked}
        disabled={disabled}
        onChange={(event) => onChange(event.target.checked)}
      />
      {words}
    </label>
  );
}

/** What is behind the fold, said where it is closed. */
function foldWords(form: FormBody, question: Question): string {
  const said = [
    ...(question.askedIf ?? []).map((asked) => `asked if ${askedIfWords(form, asked)}`),
    ...(question.next ? [`leads ${nextWords(form, question.next)}`] : []),
    ...(question.help ? ['with help'] : []),
  ];
  return said.length > 0 ? said.join('; ') : question.type === 'hidden' ? 'Way' : 'Help and way';
}

function Fold({ summary, label, children }: { summary: string; label: string; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <div>
      <button
        type="button"
        className="leads min-h-6 text-left"
        aria-expanded={open}
        aria-label={`Help and way of ${label}`}
        onClick={() => setOpen(!open)}
      >
        {open ? '▾' : '▸'} {summary}
      </button>
      {open && children}
    </div>
  );
}

/** The part of the form that begins with a question. */
function Section({ question, onChange }: { question: Question; onChange: (question: Question) => void }) {
  const { section, ...without } = question;
  return (
    <div className="border-base-300 group -mx-3.5 -mt-3.5 mb-1 flex flex-wrap items-center gap-2 border-b px-3.5 py-2">
      <span className="quiet">Part</span>
      <input
        className="input input-sm w-56 font-medium"
        aria-label={`Name of the part that begins with ${question.label || question.key}`}
        value={section?.name ?? ''}
        onChange={(event) => onChange({ ...question, section: { ...section, name: event.target.value } })}
      />
      <input
        className="input input-sm min-w-40 flex-1"
        aria-label={`Words of the part that begins with ${question.label || question.key}`}
        placeholder="words above its questions"
        value={section?.text ?? ''}
        onChange={(event) =>
          onChange({ ...question, section: { name: section?.name ?? '', ...(event.target.value ? { text: event.target.value } : {}) } })
        }
      />
      <button type="button" className="row-tool" onClick={() => onChange(without)}>
        remove the part
      </button>
    </div>
  );
}

function ChoiceWays({ form, index, onChange }: Omit<QuestionEditorProps, 'catalogue'>) {
  const question = form.questions[index] as Question;
  const options = question.options ?? [];
  if (options.length === 0) return null;
  return (
    <ul className="mt-2 flex flex-col gap-1">
      {options.map((option, at) => {
        const { next: _next, ...without } = option;
        return (
          <li key={option.key} className="flex flex-wrap items-center gap-2">
            <span className="min-w-24">“{option.name}” leads</span>
            <NextInput
              label={`Where ${option.name} leads`}
              form={form}
              own={index}
              next={option.next}
              standard="on like the question"
              onChange={(next) => onChange({ ...question, options: options.with(at, next ? { ...option, next } : without) })}
            />
            <FaultsAt path={['questions', index, 'options', at, 'next']} />
          </li>
        );
      })}
    </ul>
  );
}

/** The limits that the type of a question has. */
function Limits({ question, onChange }: { question: Question; onChange: (question: Question) => void }) {
  const { type, min, max } = question;
  const label = question.label || question.key;
  const put = (more: Partial<Question>): void => onChange(tidy({ ...question, ...more }));
  if (type === 'date')
    return (
      <p className="flex flex-wrap items-center gap-2">
        a day from
        <DayInput label={`First day of ${label}`} value={question.earliest ?? ''} onChange={(earliest) => put({ earliest })} />
        to
        <DayInput label={`Last day of ${label}`} value={question.latest ?? ''} onChange={(latest) => put({ latest })} />
      </p>
    );
  if (!isNumeric(type) && type !== 'several choices') return null;
  const words = type === 'several choices' ? ['at least', 'at most', 'of them'] : ['from', 'to', ''];
  return (
    <p className="flex flex-wrap items-center gap-2">
      {words[0]}
      <Limit label={`Lowest of ${label}`} value={type === 'scale' ? (min ?? 1) : min} onChange={(next) => put({ min: next })} />
      {words[1]}
      <Limit label={`Highest of ${label}`} value={type === 'scale' ? (max ?? 5) : max} onChange={(next) => put({ max: next })} />
      {words[2]}
      {type === 'scale' &&
        (['low', 'high'] as const).map((end) => (
          <input
            key={end}
            className="input input-sm w-36"
            aria-label={`${end === 'low' ? 'Lowest' : 'Highest'} step of ${label} means`}
            placeholder={end === 'low' ? 'what the lowest means' : 'what the highest means'}
            value={question[end] ?? ''}
            onChange={(event) => put({ [end]: event.target.value })}
          />
        ))}
    </p>
  );
}
