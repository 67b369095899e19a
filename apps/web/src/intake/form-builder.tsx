import { lostAnswers, waysOf, type FormBody } from '@eager-sieve/core';
import { useDeferredValue, useMemo } from 'react';
import { useSearchParams } from 'react-router';
import { type ToldFault } from '../app/errors';
import { type Draft } from '../app/use-draft';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { Tabs } from '../ui/tabs';
import { Uses } from '../tags/uses';
import { AnswerMap } from './answer-map';
import { FormLook } from './form-look';
import { FormMap } from './form-map';
import { FormResults } from './form-results';
import { FormTry } from './form-try';
import { stillToDo } from './question-list';
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

const VIEWS = { questions: 'Questions', map: 'Answer map', look: 'Ending and look', try: 'Try it', results: 'Results' } as const;
type View = keyof typeof VIEWS;

/** A form: its questions and the ways through them, what their answers do, how it ends, and how it goes. */
function FormBuilder({ draft }: { draft: Draft<'form'> }) {
  const { name, body: form, catalogue, setBody: setForm, isNew, itemKey } = draft;
  const [search, setSearch] = useSearchParams();
  const views = (Object.keys(VIEWS) as View[]).filter((view) => view !== 'results' || !isNew);
  const asked = search.get('view') as View | null;
  const view = asked && views.includes(asked) ? asked : 'questions';
  const faults = stillToDo(form, name);
  return (
    <DefinitionPage
      draft={draft}
      thing="form"
      meta={<Published draft={draft} />}
      keeping={<Publishing draft={draft} faults={faults} />}
      faults={faults.filter(({ path }) => path.length > 1).map((fault) => ({ ...fault, words: `${capital(fault.words)}.` }))}
    >
      <ToDo faults={faults} />
      {view !== 'questions' && <Lost draft={draft} />}
      <div className="mb-4">
        <Tabs
          label="Views of the form"
          tabs={views.map((id) => ({ id, words: VIEWS[id] }))}
          open={view}
          onOpen={(next) => setSearch(next === 'questions' ? {} : { view: next }, { replace: true })}
        />
      </div>
      {view === 'questions' && <QuestionsView draft={draft} />}
      {view === 'map' && (
        <Editing>
          <AnswerMap draft={draft} />
        </Editing>
      )}
      {view === 'look' && (
        <Editing>
          <FormLook
            form={form}
            setForm={setForm}
            address={isNew ? undefined : `${location.origin}/f/${itemKey}`}
            ofWorkspace={catalogue.workspace.colour}
          />
        </Editing>
      )}
      {view === 'try' && <FormTry draft={draft} />}
      {view === 'results' && <FormResults formKey={itemKey} form={draft.saved.body} catalogue={catalogue} />}
    </DefinitionPage>
  );
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** What of the form as a whole is still to do, and how many of its questions have something to do beside them. */
function ToDo({ faults }: { faults: readonly ToldFault[] }) {
  if (faults.length === 0) return null;
  const whole = faults.filter(({ path }) => path.length <= 1).map(({ words }) => words);
  const beside = faults.length - whole.length;
  const said = [...whole, ...(beside > 0 ? ['see what stands beside the questions'] : [])];
  return <p className="quiet mb-2">To do before it can be published: {said.join('; ')}.</p>;
}

/** What of the rest reads answers that this version does not ask for any more. */
function Lost({ draft: { itemKey, saved, body, catalogue, changed } }: { draft: Draft<'form'> }) {
  const later = useDeferredValue(body);
  const lost = useMemo(
    () => (changed && saved.body.published ? lostAnswers(catalogue, itemKey, saved.body, later) : []),
    [catalogue, itemKey, saved.body, later, changed],
  );
  if (lost.length === 0) return null;
  return (
    <section className="panel mb-3 px-4 py-2.5" aria-label="What this version takes away">
      <ul className="flex flex-col gap-1">
        {lost.map(({ question, choice, uses }) => (
          <li key={`${question} ${choice ?? ''}`}>
            {choice === undefined ? `“${question}” is not asked any more` : `“${choice}” is no answer to “${question}” any more`}
            {uses.length === 0 ? (
              '. Nothing asks for it.'
            ) : (
              <>
                : what people answered until now still counts, and nobody new comes to <Uses of={uses} none="" />
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function QuestionsView({ draft }: { draft: Draft<'form'> }) {
  const { body: form, catalogue, setBody: setForm } = draft;
  const later = useDeferredValue(form);
  const ways = useMemo(() => waysOf(later.questions), [later.questions]);
  const lost = ways.unreached.map((key) => `“${later.questions.find((each) => each.key === key)?.label ?? key}”`);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_250px] gap-6 max-lg:grid-cols-1">
      <div>
        <Editing>
          <label className="mb-3 block">
            <span className="mb-1 block font-medium">Words above the questions</span>
            <textarea
              className="textarea textarea-sm h-16 w-full py-1.5"
              value={form.intro}
              onChange={(event) => setForm({ ...form, intro: event.target.value })}
            />
          </label>
          <Questions form={form} catalogue={catalogue} onChange={(questions) => setForm({ ...form, questions })} />
        </Editing>
      </div>
      <aside className="sticky top-4 self-start" aria-label="Ways through the form">
        <Lost draft={draft} />
        <h2 className="mb-1.5 text-[15px]">Ways</h2>
        {lost.length > 0 && <p className="text-error mb-1.5">Nobody comes to {lost.join(' and ')}.</p>}
        {!ways.isComplete && <p className="quiet mb-1.5">There are more ways than were looked through.</p>}
        <FormMap form={later} ways={ways} />
      </aside>
    </div>
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

function Publishing({ draft, faults }: { draft: Draft<'form'>; faults: readonly ToldFault[] }) {
  const { name, body: form, saved, isNew, saving } = draft;
  const keep = (published: boolean): Promise<boolean> =>
    draft.keep(published ? `${name} is published.` : `${name} is saved, and not public.`, { ...form, published });
  // A draft may still have ways that lead nowhere.
  const canBeKept = stillToDo(form, name, false).length === 0;
  return (
    <>
      <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={saving || !canBeKept} onClick={() => void keep(false)}>
        {saved.body.published && !isNew ? 'Unpublish' : 'Keep as draft'}
      </button>
      <button type="button" className="btn btn-sm btn-primary" disabled={saving || faults.length > 0} onClick={() => void keep(true)}>
        Publish
      </button>
    </>
  );
}

export default definitionRoute({
  kind: 'form',
  thing: 'form',
  all: ['/intake', 'To Intake'],
  address: '/intake/forms',
  useNew: () => NEW_FORM,
  Editor: FormBuilder,
});
