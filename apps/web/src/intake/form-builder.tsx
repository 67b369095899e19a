import { consentConfirmations, type ConsentConfirmation, type FormBody } from '@eager-sieve/core';
import { type Draft } from '../app/use-draft';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { Questions } from './questions';

const NEW_FORM: FormBody = {
  intro: '',
  thanks: 'Thank you.',
  published: false,
  questions: [
    { key: 'email', label: 'Your email address', type: 'email', required: true },
    { key: 'consent', label: 'You may write to me by email', type: 'consent', required: false, channel: 'email' },
  ],
};

/** A form: its questions in order, what their answers do, and whether it is public. */
function FormBuilder({ draft }: { draft: Draft<'form'> }) {
  const { name, body: form, catalogue, setBody: setForm } = draft;
  const faults = problems(form, name);
  return (
    <DefinitionPage
      draft={draft}
      thing="form"
      meta={<Published draft={draft} />}
      keeping={<Publishing draft={draft} ready={faults.length === 0} />}
    >
      <Editing>
        {faults.length > 0 && <p className="quiet mb-2">To do: {faults.join('; ')}.</p>}
        <label className="mb-3 block">
          <span className="mb-1 block font-medium">Words above the questions</span>
          <textarea
            className="textarea textarea-sm h-16 w-full py-1.5"
            value={form.intro}
            onChange={(event) => setForm({ ...form, intro: event.target.value })}
          />
        </label>
        <Questions questions={form.questions} catalogue={catalogue} onChange={(questions) => setForm({ ...form, questions })} />
        <label className="mt-4 block">
          <span className="mb-1 block font-medium">Words of thanks</span>
          <input
            className="input input-sm w-full"
            value={form.thanks}
            onChange={(event) => setForm({ ...form, thanks: event.target.value })}
          />
        </label>
        <Trust form={form} setForm={setForm} />
      </Editing>
    </DefinitionPage>
  );
}

const CONFIRMATIONS: Readonly<Record<ConsentConfirmation, string>> = {
  'where withdrawn': 'only from those who have withdrawn it',
  always: 'from everybody',
  never: 'from nobody',
};

/** What an answer may do that came from whoever typed an address. An answer by a contact's own link is always theirs. */
function Trust({ form, setForm }: { form: FormBody; setForm: (form: FormBody) => void }) {
  return (
    <fieldset className="mt-4">
      <legend className="mb-1 font-medium">Anybody can type any address here</legend>
      <label className="flex flex-wrap items-baseline gap-2">
        Consent counts once it is confirmed by a link that is sent to the address:
        <select
          className="select select-sm w-auto"
          value={form.confirmConsent ?? 'where withdrawn'}
          onChange={(event) => setForm({ ...form, confirmConsent: event.target.value as ConsentConfirmation })}
        >
          {consentConfirmations.map((when) => (
            <option key={when} value={when}>
              {CONFIRMATIONS[when]}
            </option>
          ))}
        </select>
      </label>
      <label className="mt-2 flex cursor-pointer items-baseline gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary checkbox-xs"
          checked={form.answersReplace ?? false}
          onChange={(event) => setForm({ ...form, answersReplace: event.target.checked })}
        />
        Answers replace what is known already; otherwise they fill only what is empty
      </label>
      <p className="quiet mt-1.5 text-[13px]">
        An answer counts as the contact’s own if they came to the form by a link in one of your messages: then it confirms consent, and
        replaces what is known.
      </p>
    </fieldset>
  );
}

function Published({ draft: { isNew, saved, itemKey, changed } }: { draft: Draft<'form'> }) {
  if (isNew) return <>not kept yet</>;
  return (
    <>
      {saved.body.published ? (
        <>
          published at{' '}
          <a className="leads" href={`/f/${itemKey}`} target="_blank" rel="noreferrer">
            /f/{itemKey}
          </a>
        </>
      ) : (
        'saved, not published'
      )}
      {changed && <b className="text-base-content"> · unsaved changes</b>}
    </>
  );
}

function Publishing({ draft, ready }: { draft: Draft<'form'>; ready: boolean }) {
  const { name, body: form, saved, isNew, saving } = draft;
  const keep = (published: boolean): Promise<boolean> =>
    draft.keep(published ? `${name} is published.` : `${name} is saved, and not public.`, { ...form, published });
  return (
    <>
      <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={saving || !ready} onClick={() => void keep(false)}>
        {saved.body.published && !isNew ? 'Unpublish' : 'Keep as draft'}
      </button>
      <button type="button" className="btn btn-sm btn-primary" disabled={saving || !ready} onClick={() => void keep(true)}>
        Publish
      </button>
    </>
  );
}

function problems(form: FormBody, name: string): string[] {
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

export default definitionRoute({
  kind: 'form',
  thing: 'form',
  all: ['/intake', 'To Intake'],
  address: '/intake/forms',
  useNew: () => NEW_FORM,
  Editor: FormBuilder,
});
