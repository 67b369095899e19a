import { tagHygiene, toDocumentItem, type Catalogue, type HygieneFinding, type HygieneKind, type TagFigures } from '@eager-sieve/core';
import { type TagFiguresView } from '@eager-sieve/contracts';
import { Link } from 'react-router';
import { useSave } from '../app/use-save';
import { Offer } from '../ui/offer';
import { Empty } from '../ui/states';
import { Tag } from '../ui/tag';

/** What is worth a look in the plan, from what the server has counted. */
export function findingsIn(catalogue: Catalogue, { tags, overlaps }: TagFiguresView): readonly HygieneFinding[] {
  const idOf = (key: string): number => catalogue.find('tag', key)?.id ?? -1;
  const figures = new Map(
    tags.map(({ key, lastGivenAt, ...counted }): [number, TagFigures] => [
      idOf(key),
      { ...counted, lastGivenAt: lastGivenAt === null ? undefined : Date.parse(lastGivenAt) },
    ]),
  );
  const pairs = overlaps.map(({ tags: [a, b], both }) => ({ tags: [idOf(a), idOf(b)] as const, both }));
  return tagHygiene({ catalogue, figures, overlaps: pairs, now: Date.now() });
}

const TITLES: Readonly<Record<HygieneKind, string>> = {
  'never given': 'Never given',
  'not given lately': 'Not given lately',
  'given by nothing': 'Given by nothing',
  'relied on by nothing': 'Relied on by nothing',
  'alike names': 'Nearly the same name',
  'alike people': 'Nearly the same people',
  'alone in its family': 'Alone in its family',
  'without a value': 'Without a value',
};

/** A list to work down: each tag with what is the matter, the way to its page, and retiring it where nothing rests on it. */
export function Hygiene({ catalogue, findings }: { catalogue: Catalogue; findings: readonly HygieneFinding[] }) {
  if (findings.length === 0) return <Empty title="Nothing to look at">Every tag is given, and something asks for it.</Empty>;
  const kinds = [...new Set(findings.map(({ kind }) => kind))];
  return kinds.map((kind) => {
    const found = findings.filter((each) => each.kind === kind);
    return (
      <section key={kind} className="mt-4" aria-label={TITLES[kind]}>
        <h2 className="text-[15px]">
          {TITLES[kind]} <span className="quiet font-sans text-[13px] font-normal">{found.length}</span>
        </h2>
        <ul className="panel divide-base-300/60 mt-1 divide-y">
          {found.map((finding) => (
            <Found key={finding.tags.join(' ')} finding={finding} catalogue={catalogue} />
          ))}
        </ul>
      </section>
    );
  });
}

/** What nothing asks for and nothing gives can go, without anybody noticing. */
const RETIRABLE: readonly HygieneKind[] = ['never given', 'relied on by nothing'];

function Found({ finding: { kind, tags, words }, catalogue }: { finding: HygieneFinding; catalogue: Catalogue }) {
  const [save, isSaving] = useSave();
  const named = tags.flatMap((id) => catalogue.get('tag', id) ?? []);
  const [tag] = named;
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 py-1.5">
      <span className="flex w-72 flex-wrap gap-x-3">
        {named.map(({ key }) => (
          <Link key={key} to={`/tags/${key}`}>
            <Tag name={key} />
          </Link>
        ))}
      </span>
      <span className="quiet min-w-64 flex-1">{words}</span>
      {tag && named[1] && (
        <Offer needs="definitions:write">
          <Link className="btn btn-xs" to={`/tags/${tag.key}?by=${named[1].key}`}>
            Replace …
          </Link>
        </Offer>
      )}
      {tag && RETIRABLE.includes(kind) && (
        <Offer needs="definitions:write">
          <button
            type="button"
            className="btn btn-xs"
            aria-label={`Retire ${tag.key}`}
            disabled={isSaving}
            onClick={() =>
              void save({ tags: [{ key: tag.key, retire: true }] }, `${tag.key} is retired: who has it keeps it.`, {
                tags: [toDocumentItem(tag, catalogue)],
              })
            }
          >
            Retire
          </button>
        </Offer>
      )}
    </li>
  );
}
