import { type Catalogue, type TagValueKind } from '@eager-sieve/core';
import { use, useState } from 'react';
import { type ContactView } from '@eager-sieve/contracts';
import { FactInput } from '../ui/fact-input';
import { ReadOnly } from '../ui/offer';
import { Tag } from '../ui/tag';
import { asFact, TagValueInput } from '../ui/tag-value';
import { When } from '../ui/when';
import { Why } from '../ui/why';
import { useContactWrite } from './use-contact-write';

export interface FactsProps {
  readonly contact: ContactView;
  readonly catalogue: Catalogue;
}

/** What is said alike is said once, with how often. */
const together = (words: readonly string[]): readonly (readonly [string, number])[] => {
  const times = new Map<string, number>();
  for (const each of words) times.set(each, (times.get(each) ?? 0) + 1);
  return [...times];
};

/** The tags of a contact, each with its reasons; they are given and taken off by hand here. */
export function ContactTags({ contact, catalogue }: FactsProps) {
  const readOnly = use(ReadOnly);
  const kindOf = (key: string): TagValueKind | undefined => catalogue.find('tag', key)?.body.value;
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">Tags</h2>
      <ul className="flex flex-col gap-1.25">
        {contact.tags.map((tag) => (
          <HeldTag key={tag.key} tag={tag} value={kindOf(tag.key)} contact={contact} />
        ))}
      </ul>
      {contact.tags.length === 0 && <p className="quiet">No tags.</p>}
      {!readOnly && <AddTag contact={contact} catalogue={catalogue} />}
    </section>
  );
}

function HeldTag({ tag, value, contact }: { tag: ContactView['tags'][number]; value: TagValueKind | undefined; contact: ContactView }) {
  const readOnly = use(ReadOnly);
  const set = useContactWrite(contact);
  return (
    <li data-fact className="group relative pr-14">
      <Tag name={tag.key} title={tag.name} />
      {value && (
        <span className="ml-1.5">
          <FactInput
            body={asFact(value)}
            name={`value of ${tag.key}`}
            value={tag.value}
            shown={tag.value === undefined || tag.value === null ? undefined : String(tag.value as string | number)}
            onSet={async (next) => next !== null && set({ tags: { [tag.key]: next as string } })}
          />
        </span>
      )}
      <Why subject={{ whose: { contact: contact.id }, of: 'tag', key: tag.key }} label={tag.key} />
      <span className="quiet ml-1.5 text-[12px]">
        <When at={tag.since} />
        {tag.goesAt && (
          <>
            {' · goes '}
            <When at={tag.goesAt} />
          </>
        )}
      </span>
      {!readOnly && (
        <button
          type="button"
          className="quiet absolute top-0 right-0 cursor-pointer text-[12px] opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 hover:underline"
          onClick={() => void set({ tags: { [tag.key]: false } }, { words: `${tag.key} is taken off.`, kind: 'tag', thing: tag.key })}
        >
          take off
        </button>
      )}
      <ul className="quiet pl-3 text-[12px]">
        {together(tag.reasons.map((reason) => reason.words)).map(([words, n]) => (
          <li key={words}>
            {words}
            {n > 1 && `, ${n} times`}
          </li>
        ))}
      </ul>
    </li>
  );
}

/** Gives a tag that the contact does not have; one that carries a value asks for it first. */
function AddTag({ contact, catalogue }: FactsProps) {
  const set = useContactWrite(contact);
  const [adding, setAdding] = useState('');
  const [valued, setValued] = useState('');
  const held = new Set(contact.tags.map((tag) => tag.key));
  const free = catalogue.all('tag').filter((tag) => !held.has(tag.key));
  const kindOf = (key: string): TagValueKind | undefined => catalogue.find('tag', key)?.body.value;
  const kind = kindOf(adding);
  const give = async (tag: string, value: true | string): Promise<void> => {
    if (await set({ tags: { [tag]: value } }, { words: `${tag} is given.`, kind: 'tag', thing: tag })) setAdding('');
  };
  return (
    <>
      {free.length > 0 && (
        <select
          className="select select-sm w-auto mt-1.5 max-w-56"
          aria-label="Add a tag"
          value={adding}
          onChange={(event) => {
            setAdding(event.target.value);
            setValued('');
            if (!kindOf(event.target.value)) void give(event.target.value, true);
          }}
        >
          <option value="" disabled>
            + tag
          </option>
          {free.map((tag) => (
            <option key={tag.key} value={tag.key}>
              {tag.key}
            </option>
          ))}
        </select>
      )}
      {kind && (
        <form
          className="mt-1.5 flex items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void give(adding, valued);
          }}
        >
          <TagValueInput kind={kind} label={`Value of ${adding}`} value={valued} onChange={setValued} />
          <button className="btn btn-xs">Give it</button>
        </form>
      )}
    </>
  );
}
