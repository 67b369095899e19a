import { keyFrom, type Catalogue, type ChoiceLink, type MessageBody } from '@eager-sieve/core';
import { useState } from 'react';
import { FaultsAt } from '../ui/faults-at';

/** Links that are answers: a click tags the contact and leads on. */
export function ChoiceLinks({
  message,
  catalogue,
  onChange,
}: {
  message: MessageBody;
  catalogue: Catalogue;
  onChange: (message: MessageBody) => void;
}) {
  return (
    <section>
      <h2 className="mb-1 text-[15px]">Choice links</h2>
      <p className="quiet mb-2 text-[12.5px]">A link that is an answer: a click tags the contact and leads on.</p>
      <ul className="flex flex-col gap-2">
        {message.links.map((link, index) => (
          <li key={index}>
            <ChoiceLinkRow
              link={link}
              index={index}
              catalogue={catalogue}
              onChange={(next) => onChange({ ...message, links: message.links.with(index, next) })}
              onRemove={() => onChange({ ...message, links: message.links.toSpliced(index, 1) })}
            />
          </li>
        ))}
      </ul>
      <NewLink
        taken={new Set(message.links.map((link) => link.key))}
        onAdd={(link) => onChange({ ...message, links: [...message.links, link] })}
      />
    </section>
  );
}

function NewLink({ taken, onAdd }: { taken: ReadonlySet<string>; onAdd: (link: ChoiceLink) => void }) {
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

interface ChoiceLinkRowProps {
  readonly link: ChoiceLink;
  readonly index: number;
  readonly catalogue: Catalogue;
  readonly onChange: (link: ChoiceLink) => void;
  readonly onRemove: () => void;
}

function ChoiceLinkRow({ link, index, catalogue, onChange, onRemove }: ChoiceLinkRowProps) {
  const { tag, destination, ...plain } = link;
  return (
    <div className="flex flex-wrap items-center gap-2">
      <input
        className="input input-sm w-36"
        aria-label={`Words of link ${index + 1}`}
        value={link.label}
        onChange={(event) => onChange({ ...link, label: event.target.value })}
      />
      <span className="font-mono text-[12px]">[{link.key}]</span>
      <select
        className="select select-sm w-auto"
        aria-label={`Tag of link ${index + 1}`}
        value={tag ?? ''}
        onChange={(event) =>
          onChange({
            ...plain,
            ...(destination ? { destination } : {}),
            ...(event.target.value ? { tag: Number(event.target.value) } : {}),
          })
        }
      >
        <option value="">no tag</option>
        {catalogue.all('tag').map((each) => (
          <option key={each.key} value={each.id}>
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
          onChange({ ...plain, ...(tag ? { tag } : {}), ...(event.target.value ? { destination: event.target.value } : {}) })
        }
      />
      <button type="button" className="btn btn-xs" onClick={onRemove}>
        Remove
      </button>
      <FaultsAt path={['links', index]} />
    </div>
  );
}
