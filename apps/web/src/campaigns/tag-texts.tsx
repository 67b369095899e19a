import { keyFrom, type Catalogue, type MessageBody, type TagText } from '@eager-sieve/core';
import { Link } from 'react-router';
import { FaultsAt } from '../ui/faults-at';

interface TagTextsProps {
  readonly message: MessageBody;
  readonly catalogue: Catalogue;
  readonly onChange: (message: MessageBody) => void;
  /** puts words into the text where the cursor stands, with what else is changed of the message */
  readonly onPut: (words: string, message: MessageBody) => void;
}

/** What the message says to whoever has a tag, in the words that stand with the tag. */
export function TagTexts({ message, catalogue, onChange, onPut }: TagTextsProps) {
  const texts = message.tagTexts ?? [];
  const { tagTexts: _tagTexts, ...rest } = message;
  const put = (next: readonly TagText[]): void => onChange(next.length > 0 ? { ...rest, tagTexts: [...next] } : rest);
  const said = catalogue.all('tag').filter(({ body }) => body.text !== undefined);
  const add = (id: number): void => {
    const tag = catalogue.get('tag', id);
    if (!tag) return;
    const taken = new Set([...message.links, ...texts].map(({ key }) => key));
    const key = keyFrom(tag.key, taken).replaceAll('.', '-');
    onPut(`[${key}]`, { ...rest, tagTexts: [...texts, { key, tag: id }] });
  };
  return (
    <section>
      <h2 className="mb-1 text-[15px]">Texts of tags</h2>
      <p className="quiet mb-2 text-[12.5px]">
        {said.length === 0
          ? 'A tag can have a text of its own, which messages show to whoever has it: write one on the page of a tag.'
          : 'Said to whoever has the tag, in the words that stand on its page.'}
      </p>
      <ul className="flex flex-col gap-2">
        {texts.map((text, index) => (
          <li key={index}>
            <TagTextRow
              text={text}
              catalogue={catalogue}
              onChange={(next) => put(texts.with(index, next))}
              onRemove={() => put(texts.toSpliced(index, 1))}
            />
            <FaultsAt path={['tagTexts', index]} />
          </li>
        ))}
      </ul>
      {said.length > 0 && (
        <select
          className="select select-sm mt-2 w-auto max-w-80"
          aria-label="Put in the text of a tag"
          value=""
          onChange={(event) => add(Number(event.target.value))}
        >
          <option value="" disabled>
            + text of a tag
          </option>
          {said.map(({ id, key, name }) => (
            <option key={key} value={id}>
              {key}: {name}
            </option>
          ))}
        </select>
      )}
    </section>
  );
}

interface TagTextRowProps {
  readonly text: TagText;
  readonly catalogue: Catalogue;
  readonly onChange: (text: TagText) => void;
  readonly onRemove: () => void;
}

function TagTextRow({ text: { key, tag, otherwise }, catalogue, onChange, onRemove }: TagTextRowProps) {
  const definition = catalogue.get('tag', tag);
  const name = definition?.name ?? 'a tag that is gone';
  return (
    <div className="panel px-3 py-2">
      <p className="flex flex-wrap items-baseline gap-2">
        <code className="font-mono text-[12.5px]">[{key}]</code>
        {definition ? (
          <Link className="leads" to={`/tags/${definition.key}`}>
            {name}
          </Link>
        ) : (
          name
        )}
        <button type="button" className="btn btn-xs ml-auto" aria-label={`Remove the text for ${name}`} onClick={onRemove}>
          Remove
        </button>
      </p>
      <p className="quiet mt-1 whitespace-pre-line">{definition?.body.text ?? 'This tag has no text any more: nothing is said.'}</p>
      <label className="mt-1 flex flex-wrap items-center gap-2">
        to all others
        <input
          className="input input-sm min-w-52 flex-1"
          aria-label={`To all others than ${name}`}
          placeholder="nothing"
          maxLength={2_000}
          value={otherwise ?? ''}
          onChange={(event) => onChange({ key, tag, ...(event.target.value === '' ? {} : { otherwise: event.target.value }) })}
        />
      </label>
    </div>
  );
}
