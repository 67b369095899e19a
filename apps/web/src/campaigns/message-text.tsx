import { type Catalogue, LINKS_LAST_DAYS, type MessageBody, readPlaceholders } from '@eager-sieve/core';
import { useRef } from 'react';
import { FaultsAt } from '../ui/faults-at';
import { ChoiceLinks } from './choice-links';
import { TagTexts } from './tag-texts';

const wrongIn = (read: ReturnType<typeof readPlaceholders>) => (read.ok ? [] : read.faults);

/** What is wrong with the placeholders of a message as it stands. */
export function messageFaults(message: MessageBody, catalogue: Catalogue) {
  const fields = new Set(catalogue.all('field').map((field) => field.key));
  const links = new Set(message.links.map((link) => link.key));
  return {
    subject: wrongIn(readPlaceholders(message.subject, fields, new Set())),
    text: wrongIn(readPlaceholders(message.text, fields, links, new Set(message.tagTexts?.map(({ key }) => key)))),
  };
}

interface MessageTextProps {
  readonly message: MessageBody;
  readonly catalogue: Catalogue;
  readonly onChange: (message: MessageBody) => void;
}

/** To whom a message goes, and what it says. */
export function MessageText({ message, catalogue, onChange }: MessageTextProps) {
  const text = useRef<HTMLTextAreaElement>(null);
  const wasIn = useRef(false);
  const faults = messageFaults(message, catalogue);
  const unused = message.links.filter((link) => !message.text.includes(`[${link.key}]`));
  /** @param of the message as it is beside its text */
  const insert = (words: string, of: MessageBody = message): void => {
    // Where the cursor stands; at the end, where it has not been in the text yet.
    const at = (wasIn.current ? text.current?.selectionStart : undefined) ?? message.text.length;
    onChange({ ...of, text: message.text.slice(0, at) + words + message.text.slice(at) });
    text.current?.focus();
  };
  return (
    <div className="flex flex-col gap-3">
      <Recipient message={message} catalogue={catalogue} onChange={onChange} />
      <FaultsAt path={['audience']} />
      <label>
        <span className="mb-1 block font-medium">Subject</span>
        <input
          className="input input-sm w-full"
          value={message.subject}
          onChange={(event) => onChange({ ...message, subject: event.target.value })}
        />
      </label>
      <Wrong faults={faults.subject} />
      <FaultsAt path={['subject']} />
      <label>
        <span className="mb-1 block font-medium">Text</span>
        <textarea
          aria-label="Text"
          ref={text}
          className="textarea textarea-sm h-64 w-full py-2 leading-relaxed"
          value={message.text}
          onFocus={() => (wasIn.current = true)}
          onChange={(event) => onChange({ ...message, text: event.target.value })}
        />
      </label>
      <Wrong faults={faults.text} />
      <FaultsAt path={['text']} />
      <Placeholders message={message} catalogue={catalogue} onPut={insert} />
      {message.links.length > 0 && (
        <label className="flex flex-wrap items-baseline gap-2">
          Its links note what is chosen for
          <input
            className="input input-sm w-20"
            type="number"
            min={1}
            max={3650}
            aria-label="Days that its links last"
            value={message.linksLastDays ?? LINKS_LAST_DAYS}
            onChange={(event) => onChange({ ...message, linksLastDays: Math.min(3650, Math.max(1, Number(event.target.value) || 1)) })}
          />
          days after it was sent
        </label>
      )}
      {unused.length > 0 && <p className="quiet">Not in the text yet: {unused.map((link) => link.label).join(', ')}.</p>}
      <ChoiceLinks message={message} catalogue={catalogue} onChange={onChange} />
      <TagTexts message={message} catalogue={catalogue} onChange={onChange} onPut={insert} />
    </div>
  );
}

function Recipient({ message, catalogue, onChange }: MessageTextProps) {
  const { audience, ...rest } = message;
  return (
    <label>
      <span className="mb-1 block font-medium">To</span>
      <select
        aria-label="To"
        className="select select-sm w-full max-w-96"
        value={audience ?? ''}
        onChange={(event) => onChange(event.target.value ? { ...rest, audience: Number(event.target.value) } : rest)}
      >
        <option value="">nobody yet</option>
        {catalogue
          .all('audience')
          .filter((each) => each.body.of === 'contact')
          .map((each) => (
            <option key={each.key} value={each.id}>
              {each.name}
            </option>
          ))}
      </select>
    </label>
  );
}

/** Puts fields and links into the text where the cursor stands. */
function Placeholders({ message, catalogue, onPut }: { message: MessageBody; catalogue: Catalogue; onPut: (words: string) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-2">
      <select
        className="select select-sm w-auto"
        aria-label="Put in a field"
        value=""
        onChange={(event) => onPut(`[${event.target.value} or "…"]`)}
      >
        <option value="" disabled>
          + field
        </option>
        {catalogue
          .all('field')
          .filter((field) => field.key !== 'added')
          .map((field) => (
            <option key={field.key}>{field.key}</option>
          ))}
      </select>
      {message.links.map((link) => (
        <button key={link.key} type="button" className="btn btn-xs" onClick={() => onPut(`[${link.key}]`)}>
          put in the link {link.label}
        </button>
      ))}
      <span className="quiet text-[12.5px]">every message ends with a way to unsubscribe</span>
    </div>
  );
}

/** What is wrong with what has just been typed. */
function Wrong({ faults }: { faults: ReturnType<typeof wrongIn> }) {
  return faults.map((fault, index) => (
    <p key={index} role="alert" className="text-error">
      This needs {fault.expected}.
    </p>
  ));
}
