import { consentConfirmations, keyFrom, type ConsentConfirmation, type FormBody, type Outcome } from '@eager-sieve/core';
import { useState } from 'react';
import { api } from '../app/api';
import { Choice } from '../conditions/lines/inputs';
import { Link } from 'react-router';
import { ColourInput, STANDARD_COLOUR } from '../ui/colour-input';
import { FaultsAt } from '../ui/faults-at';
import { Check } from './question-editor';

interface PartProps {
  readonly form: FormBody;
  readonly setForm: (form: FormBody) => void;
}

interface FormLookProps extends PartProps {
  /** where it can be opened */
  readonly address: string | undefined;
  /** the colour that the workspace has chosen */
  readonly ofWorkspace: string | undefined;
}

/** How a form ends and looks, who answers it, and where it can stand. */
export function FormLook({ form, setForm, address, ofWorkspace }: FormLookProps) {
  return (
    <div className="flex max-w-[760px] flex-col gap-5">
      <Thanks form={form} setForm={setForm} />
      <Who form={form} setForm={setForm} />
      <Colour form={form} setForm={setForm} ofWorkspace={ofWorkspace} />
      {address !== undefined && <Embedding address={address} />}
    </div>
  );
}

function Thanks({ form, setForm }: PartProps) {
  const { outcomes = [], ...without } = form;
  const { url, ...unled } = form;
  const { data: files = [] } = api.useFilesQuery();
  const put = (next: readonly Outcome[]): void => setForm(next.length > 0 ? { ...without, outcomes: [...next] } : without);
  const add = (): void => {
    const key = keyFrom('ending', new Set(outcomes.map((each) => each.key)));
    put([...outcomes, { key, name: '', thanks: '' }]);
  };
  return (
    <section>
      <label className="block">
        <span className="mb-1 block font-medium">Words of thanks</span>
        <textarea
          className="textarea textarea-sm h-16 w-full py-1.5"
          value={form.thanks}
          onChange={(event) => setForm({ ...form, thanks: event.target.value })}
        />
      </label>
      <div className="mt-1.5">
        <PageAfter label="Page after the thanks" url={url} onChange={(next) => setForm(next ? { ...form, url: next } : unled)} />
      </div>
      <datalist id={PAGES}>
        {files.map((file) => (
          <option key={file.id} value={file.url} label={file.name} />
        ))}
      </datalist>
      {outcomes.map((outcome, at) => {
        const { url: _url, ...plain } = outcome;
        return (
          <div key={outcome.key} className="panel group mt-2.5 grid grid-cols-[minmax(0,1fr)_auto] gap-2 p-3.5">
            <input
              className="input input-sm w-full font-medium"
              aria-label={`Heading of ending ${at + 1}`}
              placeholder="Heading, such as “Come by and try”"
              value={outcome.name}
              onChange={(event) => put(outcomes.with(at, { ...outcome, name: event.target.value }))}
            />
            <button type="button" className="row-tool" onClick={() => put(outcomes.toSpliced(at, 1))}>
              remove
            </button>
            <textarea
              className="textarea textarea-sm h-20 w-full py-1.5"
              aria-label={`Words of ending ${at + 1}`}
              placeholder="What they read who come to this end"
              value={outcome.thanks}
              onChange={(event) => put(outcomes.with(at, { ...outcome, thanks: event.target.value }))}
            />
            <span />
            <PageAfter
              label={`Page after ending ${at + 1}`}
              url={outcome.url}
              onChange={(url) => put(outcomes.with(at, url ? { ...outcome, url } : plain))}
            />
            <FaultsAt path={['outcomes', at]} />
          </div>
        );
      })}
      <button type="button" className="btn btn-xs mt-2" onClick={add}>
        + another ending
      </button>
      <p className="quiet mt-1 text-[12.5px]">
        Where there are no words but a page, they come to the page at once. Your own files are offered as you type. Which way leads to
        another ending is said with the questions, under “Help and way”.
      </p>
    </section>
  );
}

const PAGES = 'pages-after-a-form';

function PageAfter({ label, url, onChange }: { label: string; url: string | undefined; onChange: (url: string) => void }) {
  return (
    <input
      className="input input-sm w-full"
      type="url"
      list={PAGES}
      aria-label={label}
      placeholder="a page to go on to, if wanted: https://…"
      value={url ?? ''}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

const CONFIRMATIONS: Readonly<Record<ConsentConfirmation, string>> = {
  'where withdrawn': 'only from those who have withdrawn it',
  always: 'from everybody',
  never: 'from nobody',
};

/** How it is known who answers, and what an answer may do that came from whoever typed an address. */
function Who({ form, setForm }: PartProps) {
  return (
    <fieldset>
      <legend className="mb-1 font-medium">Who answers</legend>
      <p className="flex flex-wrap items-baseline gap-2">
        We know who answers
        <Choice
          label="How we know who answers"
          value={form.who ?? 'email'}
          choices={[
            ['email', 'by the email address that they type'],
            ['link', 'only by a link in one of your messages'],
          ]}
          onPick={(who) => setForm({ ...form, who: who as 'email' | 'link' })}
        />
      </p>
      {form.who !== 'link' && (
        <>
          <p className="mt-2 flex flex-wrap items-baseline gap-2">
            Anybody can type any address. Consent is to be confirmed by a link that is sent there
            <Choice
              label="From whom consent is to be confirmed"
              value={form.confirmConsent ?? 'where withdrawn'}
              choices={consentConfirmations.map((when) => [when, CONFIRMATIONS[when]])}
              onPick={(when) => setForm({ ...form, confirmConsent: when as ConsentConfirmation })}
            />
          </p>
          <div className="mt-2">
            <Check
              words="Answers replace what is known already; otherwise they fill only what is empty"
              checked={form.answersReplace ?? false}
              onChange={(answersReplace) => setForm({ ...form, answersReplace })}
            />
          </div>
          <p className="quiet mt-1.5 text-[13px]">
            An answer counts as the contact’s own if they came to the form by a link in one of your messages: then it confirms consent, and
            replaces what is known.{' '}
            {!form.answersReplace &&
              'Any other answer clears no field, takes nobody off a list or back to an earlier stage, and leaves their owner and the tags that they have from elsewhere.'}
          </p>
        </>
      )}
    </fieldset>
  );
}

function Colour({ form, setForm, ofWorkspace }: PartProps & { ofWorkspace: string | undefined }) {
  const { colour, ...without } = form;
  return (
    <section>
      <p className="mb-1 font-medium">Colour of buttons and lines</p>
      <ColourInput
        label="Colour of buttons and lines"
        value={colour}
        standard={ofWorkspace ?? STANDARD_COLOUR}
        onChange={(next) => setForm(next === undefined ? without : { ...form, colour: next })}
      />
      <p className="quiet mt-1 text-[12.5px]">
        Without one of its own the form has the colour of the workspace. The name above the form is that of the workspace, too; both are set
        under{' '}
        <Link className="leads" to="/settings">
          Settings
        </Link>
        .
      </p>
    </section>
  );
}

/** The lines with which a form stands in a page of one's own. */
function Embedding({ address }: { address: string }) {
  const [copied, setCopied] = useState(false);
  const code = `<iframe src="${address}?embed=1" title="Form" style="width: 100%; height: 40rem; border: 0"></iframe>`;
  return (
    <section>
      <p className="mb-1 font-medium">In a page of your own</p>
      <textarea
        className="textarea textarea-sm h-16 w-full py-1.5 font-mono text-[12px]"
        aria-label="Lines for a page of your own"
        readOnly
        value={code}
      />
      <button
        type="button"
        className="btn btn-xs mt-1"
        onClick={() => void navigator.clipboard.writeText(code).then(() => setCopied(true))}
      >
        {copied ? 'Copied' : 'Copy'}
      </button>
    </section>
  );
}
