import {
  keyFrom,
  toDocumentItem,
  writtenFormSchema,
  type AnyDefinition,
  type Catalogue,
  type FormBody,
  type WrittenForm,
  type WrittenQuestion,
} from '@eager-sieve/core';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { useCatalogue } from '../app/use-catalogue';
import { KEPT, useUnsaved, watchPage } from '../app/unsaved';
import { useSave } from '../app/use-save';
import { BrokenNote } from '../ui/broken-note';
import { DefinitionMenu } from '../ui/definition-menu';
import { RetiredNote } from '../ui/retired';
import { FaultsAt, FaultsHere } from '../ui/faults-at';
import { Refused } from '../ui/refused';
import { ChoiceList } from '../ui/choice-list';
import { Offer, Retired, Writable } from '../ui/offer';
import { NameInput } from '../ui/name-input';
import { Page } from '../ui/page';
import { useMay } from '../app/use-may';
import { Empty, Loading } from '../ui/states';

const NEW_FORM: WrittenForm = {
  intro: '',
  thanks: 'Thank you.',
  published: false,
  questions: [
    { key: 'email', label: 'Your email address', type: 'email', required: true },
    { key: 'consent', label: 'You may write to me by email', type: 'consent', required: false, channel: 'email' },
  ],
};

const TYPES: readonly (readonly [WrittenQuestion['type'], string])[] = [
  ['text', 'text'],
  ['one choice', 'one choice'],
  ['several choices', 'several choices'],
  ['email', 'email address'],
  ['consent', 'consent to email'],
];

export default function FormBuilder() {
  const { key = '' } = useParams();
  const catalogue = useCatalogue();
  if (!catalogue) return <Loading />;
  const form = key === 'new' ? undefined : catalogue.find('form', key);
  if (key !== 'new' && !form)
    return (
      <Empty title="There is no such form">
        <Link className="leads" to="/intake">
          To Intake
        </Link>
      </Empty>
    );
  const body = form ? writtenForm(form as AnyDefinition, catalogue) : NEW_FORM;
  return <Builder key={`${key} ${form?.version ?? 0}`} formKey={key} savedName={form?.name ?? ''} saved={body} catalogue={catalogue} />;
}

const writtenForm = (form: AnyDefinition, catalogue: Catalogue): WrittenForm =>
  writtenFormSchema.parse(withoutHead(toDocumentItem(form, catalogue)));
const withoutHead = ({ key: _key, name: _name, retire: _retire, ...body }: Record<string, unknown>): unknown => body;

interface BuilderProps {
  readonly formKey: string;
  readonly savedName: string;
  readonly saved: WrittenForm;
  readonly catalogue: Catalogue;
}

function Builder({ formKey, savedName, saved, catalogue }: BuilderProps) {
  const [name, setName] = useState(savedName);
  const [form, setForm] = useState(saved);
  const [save, saving, refused] = useSave();
  useUnsaved(!saving && (name !== savedName || JSON.stringify(form) !== JSON.stringify(saved)));
  const navigate = useNavigate();
  const retired = catalogue.find('form', formKey)?.retired ?? false;
  const mayWrite = useMay('definitions:write') && !retired;
  const isNew = formKey === 'new';
  const faults = problems(form, name);
  const whole = { kind: 'form' as const, itemKey: formKey, catalogue, written: () => ({ ...saved }) };
  const restore = (earlierName: string, body: FormBody): void => {
    setName(earlierName);
    setForm(writtenForm({ ...(catalogue.find('form', formKey) as AnyDefinition), body } as AnyDefinition, catalogue));
  };
  const put = (index: number, question: WrittenQuestion): void => setForm({ ...form, questions: form.questions.with(index, question) });
  const keep = async (published: boolean): Promise<void> => {
    const key = isNew ? keyFrom(name, new Set(catalogue.all('form').map((each) => each.key))) : formKey;
    const stillHere = watchPage();
    const done = await save(
      { forms: [{ key, name: name.trim(), ...form, published }] },
      published ? `${name} is published.` : `${name} is saved, and not public.`,
    );
    if (done && isNew && stillHere()) await navigate(`/intake/forms/${key}`, { replace: true, state: KEPT });
  };
  return (
    <Retired value={retired}>
      <Page
        title={<NameInput thing="form" value={name} readOnly={!mayWrite} onChange={setName} />}
        meta={
          isNew ? (
            'not saved yet'
          ) : form.published ? (
            <>
              published at{' '}
              <a className="leads" href={`/f/${formKey}`} target="_blank" rel="noreferrer">
                /f/{formKey}
              </a>
            </>
          ) : (
            'saved, not published'
          )
        }
        actions={
          <>
            {!isNew && <DefinitionMenu {...whole} restore={restore} />}
            <Offer needs="definitions:write">
              <button
                type="button"
                className="btn btn-sm btn-outline btn-primary"
                disabled={saving || faults.length > 0}
                onClick={() => void keep(false)}
              >
                {saved.published && !isNew ? 'Take off the net' : 'Save as draft'}
              </button>
              <button
                type="button"
                className="btn btn-sm btn-primary"
                disabled={saving || faults.length > 0}
                onClick={() => void keep(true)}
              >
                Publish
              </button>
            </Offer>
          </>
        }
      >
        <BrokenNote kind="form" itemKey={formKey} />
        <RetiredNote {...whole} />
        <Refused faults={refused} kind="form" name={name} />
        <FaultsHere value={refused}>
          <Writable needs="definitions:write">
            {faults.length > 0 && <p className="quiet mb-2">To do: {faults.join('; ')}.</p>}
            <label className="mb-3 block">
              <span className="mb-1 block font-medium">Words above the questions</span>
              <textarea
                className="textarea textarea-sm h-16 w-full py-1.5"
                value={form.intro}
                onChange={(event) => setForm({ ...form, intro: event.target.value })}
              />
            </label>
            <ol className="flex flex-col gap-2.5">
              {form.questions.map((question, index) => (
                <li key={index} className="panel p-3.5">
                  <FaultsAt path={['questions', index]} />
                  <QuestionEditor
                    question={question}
                    catalogue={catalogue}
                    taken={new Set(form.questions.filter((_, at) => at !== index).map((each) => each.key))}
                    onChange={(next) => put(index, next)}
                  />
                  <div className="mt-2 flex gap-2">
                    <button
                      type="button"
                      className="btn btn-xs"
                      disabled={index === 0}
                      onClick={() => setForm({ ...form, questions: swapped(form.questions, index, index - 1) })}
                    >
                      Up
                    </button>
                    <button
                      type="button"
                      className="btn btn-xs"
                      disabled={index === form.questions.length - 1}
                      onClick={() => setForm({ ...form, questions: swapped(form.questions, index, index + 1) })}
                    >
                      Down
                    </button>
                    <button
                      type="button"
                      className="btn btn-xs"
                      onClick={() => setForm({ ...form, questions: form.questions.toSpliced(index, 1) })}
                    >
                      Remove
                    </button>
                  </div>
                </li>
              ))}
            </ol>
            <div className="mt-3 flex flex-wrap gap-2">
              {TYPES.map(([type, words]) => (
                <button
                  key={type}
                  type="button"
                  className="btn btn-xs"
                  onClick={() => setForm({ ...form, questions: [newQuestion(type, form.questions), ...form.questions] })}
                >
                  + {words}
                </button>
              ))}
            </div>
            <label className="mt-4 block">
              <span className="mb-1 block font-medium">Words of thanks</span>
              <input
                className="input input-sm w-full"
                value={form.thanks}
                onChange={(event) => setForm({ ...form, thanks: event.target.value })}
              />
            </label>
          </Writable>
        </FaultsHere>
      </Page>
    </Retired>
  );
}

function swapped<T>(list: readonly T[], a: number, b: number): T[] {
  const next = [...list];
  [next[a], next[b]] = [next[b] as T, next[a] as T];
  return next;
}

function problems(form: WrittenForm, name: string): string[] {
  const found: string[] = [];
  if (name.trim() === '') found.push('give the form a name');
  if (form.questions.filter((question) => question.type === 'email').length !== 1) found.push('ask exactly once for the email address');
  if (form.questions.some((question) => question.label.trim() === '')) found.push('give every question its words');
  if (
    form.questions.some(
      (question) => question.type.includes('choice') && (question.options ?? []).filter((option) => option.name.trim()).length === 0,
    )
  )
    found.push('give every choice something to choose');
  return found;
}

function newQuestion(type: WrittenQuestion['type'], questions: readonly WrittenQuestion[]): WrittenQuestion {
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
  readonly question: WrittenQuestion;
  readonly catalogue: Catalogue;
  readonly taken: ReadonlySet<string>;
  readonly onChange: (question: WrittenQuestion) => void;
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
  const choices = question.type.includes('choice');
  /** A key that was made from the words follows them until the form is first published under it. */
  const named = (label: string): WrittenQuestion => ({
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
            [...(choice.add ?? []).map((tag) => `adds ${tag}`), ...(choice.remove ?? []).map((tag) => `takes off ${tag}`)].join(', ')
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
              onChange={(event) => onChange(event.target.value ? { ...question, field: event.target.value } : withoutField)}
            >
              <option value="">no field</option>
              {fields.map((each) => (
                <option key={each.key} value={each.key}>
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
