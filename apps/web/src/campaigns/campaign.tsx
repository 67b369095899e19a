import {
  keyFrom,
  readPlaceholders,
  toDocumentItem,
  writtenMessageSchema,
  type AnyDefinition,
  type Catalogue,
  type MessageBody,
  type WrittenMessage,
} from '@eager-sieve/core';
import { useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api } from '../app/api';
import { statusOf, errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useCatalogue } from '../app/use-catalogue';
import { KEPT, useUnsaved, watchPage } from '../app/unsaved';
import { useSave } from '../app/use-save';
import { BrokenNote } from '../ui/broken-note';
import { DefinitionMenu } from '../ui/definition-menu';
import { RetiredNote } from '../ui/retired';
import { FaultsAt, FaultsHere } from '../ui/faults-at';
import { Refused } from '../ui/refused';
import { count, people } from '../ui/number';
import { useMay } from '../app/use-may';
import { Retired, Writable } from '../ui/offer';
import { NameInput } from '../ui/name-input';
import { Page } from '../ui/page';
import { Empty, Loading } from '../ui/states';
import { Dialog } from '../ui/dialog';
import { Recipients } from './recipients';

const NEW_MESSAGE: WrittenMessage = { channel: 'email', subject: '', text: 'Hello [given-name or "there"],\n\n', links: [] };

export default function CampaignPage() {
  const { key = '' } = useParams();
  const catalogue = useCatalogue();
  if (!catalogue) return <Loading />;
  const message = key === 'new' ? undefined : catalogue.find('message', key);
  if (key !== 'new' && !message)
    return (
      <Empty title="There is no such message">
        <Link className="leads" to="/campaigns">
          All campaigns
        </Link>
      </Empty>
    );
  return (
    <Campaign
      key={`${key} ${message?.version ?? 0}`}
      messageKey={key}
      savedName={message?.name ?? ''}
      saved={message ? writtenMessage(message as AnyDefinition, catalogue) : NEW_MESSAGE}
      catalogue={catalogue}
    />
  );
}

function writtenMessage(message: AnyDefinition, catalogue: Catalogue): WrittenMessage {
  const { key: _key, name: _name, retire: _retire, ...body } = toDocumentItem(message, catalogue);
  return writtenMessageSchema.parse(body);
}

function Campaign({
  messageKey,
  savedName,
  saved,
  catalogue,
}: {
  messageKey: string;
  savedName: string;
  saved: WrittenMessage;
  catalogue: Catalogue;
}) {
  const retired = catalogue.find('message', messageKey)?.retired ?? false;
  const mayWrite = useMay('definitions:write') && !retired;
  const maySend = useMay('campaigns:send');
  const isNew = messageKey === 'new';
  const [name, setName] = useState(savedName);
  const [message, setMessage] = useState(saved);
  const [asking, setAsking] = useState(false);
  const [save, saving, refused] = useSave();
  const [send, sending] = api.useSendMutation();
  const [again, setAgain] = useState(false);
  const recipients = api.useRecipientsQuery({ key: messageKey, again }, { skip: isNew || retired || !saved.audience });
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const text = useRef<HTMLTextAreaElement>(null);
  const changed = isNew || name !== savedName || JSON.stringify(message) !== JSON.stringify(saved);
  useUnsaved(!saving && (name !== savedName || JSON.stringify(message) !== JSON.stringify(saved)));
  const fields = new Set(catalogue.all('field').map((field) => field.key));
  const links = new Set(message.links.map((link) => link.key));
  const inSubject = wrongIn(readPlaceholders(message.subject, fields, new Set()));
  const inText = wrongIn(readPlaceholders(message.text, fields, links));
  const unused = message.links.filter((link) => !message.text.includes(`[${link.key}]`));
  const ready = name.trim() !== '' && message.subject.trim() !== '' && message.text.trim() !== '' && inSubject.length + inText.length === 0;
  const keep = async (): Promise<void> => {
    const key = isNew ? keyFrom(name, new Set(catalogue.all('message').map((each) => each.key))) : messageKey;
    const stillHere = watchPage();
    const done = await save({ messages: [{ key, name: name.trim(), ...message }] }, `${name} is saved.`);
    if (done && isNew && stillHere()) await navigate(`/campaigns/${key}`, { replace: true, state: KEPT });
  };
  const whole = { kind: 'message' as const, itemKey: messageKey, catalogue, written: () => ({ ...saved }) };
  const restore = (earlierName: string, body: MessageBody): void => {
    setName(earlierName);
    setMessage(writtenMessage({ ...(catalogue.find('message', messageKey) as AnyDefinition), body } as AnyDefinition, catalogue));
  };
  const insert = (words: string): void => {
    const at = text.current?.selectionStart ?? message.text.length;
    setMessage({ ...message, text: message.text.slice(0, at) + words + message.text.slice(at) });
    text.current?.focus();
  };
  const go = async (): Promise<void> => {
    setAsking(false);
    const result = await send({ key: messageKey, body: { expected: recipients.data?.receive ?? 0, again } });
    if (result.error) {
      dispatch(told({ kind: 'wrong', text: errorMessage(result.error) }));
      if (statusOf(result.error) === 409) void recipients.refetch();
    } else dispatch(told({ kind: 'done', text: `On its way to ${people(result.data.recipients)}.` }));
  };
  return (
    <Retired value={retired}>
      <Page
        title={<NameInput thing="message" value={name} readOnly={!mayWrite} onChange={setName} />}
        meta={changed ? isNew ? 'not saved yet' : <b className="text-base-content">unsaved changes</b> : 'saved'}
        actions={
          <>
            {!isNew && <DefinitionMenu {...whole} restore={restore} />}
            {mayWrite && (
              <button
                type="button"
                className={`btn btn-sm btn-primary ${changed ? '' : 'btn-outline'}`}
                disabled={saving || !changed || !ready}
                onClick={() => void keep()}
              >
                Save
              </button>
            )}
            {!isNew && !retired && maySend && (
              <button
                type="button"
                className={`btn btn-sm btn-primary ${changed ? 'btn-outline' : ''}`}
                disabled={changed || !recipients.data || recipients.data.building || recipients.data.receive === 0 || sending.isLoading}
                onClick={() => setAsking(true)}
              >
                Send …
              </button>
            )}
          </>
        }
      >
        <BrokenNote kind="message" itemKey={messageKey} />
        <RetiredNote {...whole} />
        <Refused faults={refused} kind="message" name={name} />
        <div className="grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-5 max-lg:grid-cols-1">
          <Writable needs="definitions:write">
            <FaultsHere value={refused}>
              <div className="flex flex-col gap-3">
                <label>
                  <span className="mb-1 block font-medium">To</span>
                  <select
                    aria-label="To"
                    className="select select-sm w-full max-w-96"
                    value={message.audience ?? ''}
                    onChange={(event) => setMessage(withAudience(message, event.target.value))}
                  >
                    <option value="">nobody yet</option>
                    {catalogue
                      .all('audience')
                      .filter((audience) => audience.body.of === 'contact')
                      .map((audience) => (
                        <option key={audience.key} value={audience.key}>
                          {audience.name}
                        </option>
                      ))}
                  </select>
                </label>
                <FaultsAt path={['audience']} />
                <label>
                  <span className="mb-1 block font-medium">Subject</span>
                  <input
                    className="input input-sm w-full"
                    value={message.subject}
                    onChange={(event) => setMessage({ ...message, subject: event.target.value })}
                  />
                </label>
                <Wrong faults={inSubject} />
                <FaultsAt path={['subject']} />
                <label>
                  <span className="mb-1 block font-medium">Text</span>
                  <textarea
                    aria-label="Text"
                    ref={text}
                    className="textarea textarea-sm h-64 w-full py-2 leading-relaxed"
                    value={message.text}
                    onChange={(event) => setMessage({ ...message, text: event.target.value })}
                  />
                </label>
                <Wrong faults={inText} />
                <FaultsAt path={['text']} />
                <div className="flex flex-wrap items-center gap-2">
                  <select
                    className="select select-sm w-auto"
                    aria-label="Put in a field"
                    value=""
                    onChange={(event) => insert(`[${event.target.value} or "…"]`)}
                  >
                    <option value="" disabled>
                      + field
                    </option>
                    {[...fields]
                      .filter((field) => field !== 'added')
                      .map((field) => (
                        <option key={field}>{field}</option>
                      ))}
                  </select>
                  {message.links.map((link) => (
                    <button key={link.key} type="button" className="btn btn-xs" onClick={() => insert(`[${link.key}]`)}>
                      put in the link {link.label}
                    </button>
                  ))}
                  <span className="quiet text-[12.5px]">every message ends with a way to unsubscribe</span>
                </div>
                {unused.length > 0 && <p className="quiet">Not in the text yet: {unused.map((link) => link.label).join(', ')}.</p>}
                <ChoiceLinks message={message} catalogue={catalogue} onChange={setMessage} />
              </div>
            </FaultsHere>
          </Writable>
          <div>
            {isNew || !saved.audience ? (
              <p className="quiet">Once it is saved with an audience, you see here who exactly gets it.</p>
            ) : changed ? (
              <p className="quiet mb-2">As it was saved:</p>
            ) : null}
            {recipients.error ? (
              <p className="text-error">{errorMessage(recipients.error)}</p>
            ) : (
              recipients.data && <Recipients message={messageKey} recipients={recipients.data} again={again} onAgain={setAgain} />
            )}
          </div>
        </div>
        <Dialog open={asking} title={`Send “${name}”?`} onClose={() => setAsking(false)}>
          <p>
            It goes to <b>{people(recipients.data?.receive ?? 0)}</b> of {recipients.data?.audience} at once. A message that is sent cannot
            be called back.
          </p>
          {again && recipients.data && recipients.data.already.people > 0 && (
            <p className="text-error mt-2">{count(recipients.data.already.people)} of them got it already, and would get it again.</p>
          )}
          <div className="mt-4 flex gap-2">
            <button type="button" className="btn btn-sm btn-primary" onClick={() => void go()}>
              Send to {people(recipients.data?.receive ?? 0)}
            </button>
            <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => setAsking(false)}>
              Not yet
            </button>
          </div>
        </Dialog>
      </Page>
    </Retired>
  );
}

const wrongIn = (read: ReturnType<typeof readPlaceholders>) => (read.ok ? [] : read.faults);

/** What is wrong with what has just been typed. */
function Wrong({ faults }: { faults: ReturnType<typeof wrongIn> }) {
  return faults.map((fault, index) => (
    <p key={index} role="alert" className="text-error">
      This needs {fault.expected}.
    </p>
  ));
}

function withAudience(message: WrittenMessage, audience: string): WrittenMessage {
  const { audience: _old, ...rest } = message;
  return audience ? { ...rest, audience } : rest;
}

function ChoiceLinks({
  message,
  catalogue,
  onChange,
}: {
  message: WrittenMessage;
  catalogue: Catalogue;
  onChange: (message: WrittenMessage) => void;
}) {
  const put = (index: number, link: WrittenMessage['links'][number]): void =>
    onChange({ ...message, links: message.links.with(index, link) });
  return (
    <section>
      <h2 className="mb-1 text-[15px]">Choice links</h2>
      <p className="quiet mb-2 text-[12.5px]">A link that is an answer: a click tags the contact and leads on.</p>
      <ul className="flex flex-col gap-2">
        {message.links.map((link, index) => {
          const { tag, destination, ...plain } = link;
          return (
            <li key={index} className="flex flex-wrap items-center gap-2">
              <input
                className="input input-sm w-36"
                aria-label={`Words of link ${index + 1}`}
                value={link.label}
                onChange={(event) => put(index, { ...link, label: event.target.value })}
              />
              <span className="font-mono text-[12px]">[{link.key}]</span>
              <select
                className="select select-sm w-auto"
                aria-label={`Tag of link ${index + 1}`}
                value={tag ?? ''}
                onChange={(event) =>
                  put(index, {
                    ...plain,
                    ...(destination ? { destination } : {}),
                    ...(event.target.value ? { tag: event.target.value } : {}),
                  })
                }
              >
                <option value="">no tag</option>
                {catalogue.all('tag').map((each) => (
                  <option key={each.key} value={each.key}>
                    {each.key}
                  </option>
                ))}
              </select>
              <input
                className="input input-sm w-56"
                type="url"
                aria-label={`Where link ${index + 1} leads`}
                placeholder="a page of thanks"
                value={destination ?? ''}
                onChange={(event) =>
                  put(index, { ...plain, ...(tag ? { tag } : {}), ...(event.target.value ? { destination: event.target.value } : {}) })
                }
              />
              <button
                type="button"
                className="btn btn-xs"
                onClick={() => onChange({ ...message, links: message.links.toSpliced(index, 1) })}
              >
                Remove
              </button>
              <FaultsAt path={['links', index]} />
            </li>
          );
        })}
      </ul>
      <NewLink
        taken={new Set(message.links.map((link) => link.key))}
        onAdd={(link) => onChange({ ...message, links: [...message.links, link] })}
      />
    </section>
  );
}

function NewLink({ taken, onAdd }: { taken: ReadonlySet<string>; onAdd: (link: WrittenMessage['links'][number]) => void }) {
  const [label, setLabel] = useState('');
  const add = (): void => {
    if (label.trim() === '') return;
    onAdd({ key: keyFrom(label, taken).replaceAll('.', '-'), label: label.trim() });
    setLabel('');
  };
  return (
    <div className="mt-2 flex gap-2">
      <input
        className="input input-sm w-36"
        aria-label="Words of a new link"
        placeholder="Glossy"
        value={label}
        onChange={(event) => setLabel(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && (event.preventDefault(), add())}
      />
      <button type="button" className="btn btn-xs" disabled={label.trim() === ''} onClick={add}>
        + choice link
      </button>
    </div>
  );
}
