import { saidOfThem, TAG_VALUE_WORDS, usesOfTag, type Condition } from '@eager-sieve/core';
import { Link } from 'react-router';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { type Draft } from '../app/use-draft';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { AlsoCalled, withSynonyms } from '../ui/also-called';
import { FaultsAt } from '../ui/faults-at';
import { people, signed } from '../ui/number';
import { Empty } from '../ui/states';
import { Tag } from '../ui/tag';
import { When } from '../ui/when';
import { Replacements } from './replacements';
import { TagLabels, withLabels } from './tag-labels';
import { TagExpiry } from './tag-expiry';
import { sum, TagMoves } from './tag-moves';
import { Uses } from './uses';

/** One tag: who has it, what for, what gives it and what relies on it. */
function TagPage({ draft }: { draft: Draft<'tag'> }) {
  const { itemKey, body, catalogue, setBody } = draft;
  const id = catalogue.find('tag', itemKey)?.id ?? -1;
  const mayCount = useMay('audiences:read');
  const { data } = api.useTagFiguresQuery(undefined, { skip: !mayCount });
  const figures = data?.tags.find(({ key }) => key === itemKey);
  const { givenBy, reliedOnIn } = usesOfTag(catalogue, id);
  const family = catalogue.get('family', body.family);
  const standIn = body.replacedBy === undefined ? undefined : catalogue.get('tag', body.replacedBy);
  return (
    <DefinitionPage
      draft={draft}
      thing="tag"
      beside={<em className="text-primary not-italic">{figures ? people(figures.people) : mayCount && !data ? '…' : ''}</em>}
    >
      <dl className="panel mb-3 grid grid-cols-[140px_minmax(0,1fr)] items-baseline gap-y-2.5 px-4 py-3">
        <dt className="quiet">shown as</dt>
        <dd>
          <Tag name={itemKey} />
        </dd>
        <dt className="quiet">family</dt>
        <dd>
          {family && (
            <Link className="leads" to={`/tags/families/${family.key}`}>
              {family.name}
            </Link>
          )}
          {body.value && <span className="quiet"> · carries {TAG_VALUE_WORDS[body.value]}</span>}
        </dd>
        {standIn && (
          <>
            <dt className="quiet">{body.splitInto ? 'split into' : 'replaced by'}</dt>
            <dd className="flex flex-wrap gap-x-3">
              {(body.splitInto ?? []).map((part) => {
                const { key } = catalogue.get('tag', part.tag) ?? { key: '' };
                return (
                  <span key={part.tag}>
                    <Link className="leads" to={`/tags/${key}`}>
                      {key}
                    </Link>{' '}
                    <span className="quiet">where {saidOfThem(part.if as Condition, catalogue)}</span>
                  </span>
                );
              })}
              <span>
                <Link className="leads" to={`/tags/${standIn.key}`}>
                  {standIn.key}
                </Link>
                {body.splitInto && <span className="quiet"> for everyone else</span>}
              </span>
            </dd>
          </>
        )}
        {figures && (
          <>
            <dt className="quiet">lately</dt>
            <dd className="flex flex-wrap items-center gap-3">
              <TagMoves given={figures.given} lost={figures.lost} name={itemKey} />
              <span className="quiet">
                {signed(sum(figures.given))} {signed(-sum(figures.lost))} in {figures.given.length} weeks ·{' '}
                {figures.lastGivenAt ? (
                  <>
                    given last <When at={figures.lastGivenAt} />
                  </>
                ) : (
                  'never given'
                )}
              </span>
            </dd>
          </>
        )}
        <dt className="quiet">given by</dt>
        <dd>
          <Uses of={givenBy} none="by hand" />
        </dd>
        <dt className="quiet">relied on in</dt>
        <dd>
          <Uses of={reliedOnIn} none="nothing" />
        </dd>
      </dl>
      <Editing>
        <label className="block">
          <span className="mb-1 block font-medium">What it is for</span>
          <textarea
            className="textarea textarea-sm h-20 w-full py-1.5"
            value={body.purpose ?? ''}
            onChange={(event) => setBody({ ...body, purpose: event.target.value })}
          />
        </label>
        <FaultsAt path={['purpose']} />
        <label className="mt-3 block">
          <span className="mb-1 block font-medium">An example of who has it</span>
          <input
            className="input input-sm w-full"
            placeholder="bought celadon twice since spring"
            value={body.example ?? ''}
            onChange={(event) => {
              const { example: _example, ...rest } = body;
              setBody(event.target.value === '' ? rest : { ...rest, example: event.target.value });
            }}
          />
        </label>
        <FaultsAt path={['example']} />
        <label className="mt-3 block">
          <span className="mb-1 block font-medium">What messages say to whoever has it</span>
          <textarea
            className="textarea textarea-sm h-20 w-full py-1.5"
            placeholder="Your glaze is back in the kiln this week."
            value={body.text ?? ''}
            onChange={(event) => {
              const { text: _text, ...rest } = body;
              setBody(event.target.value === '' ? rest : { ...rest, text: event.target.value });
            }}
          />
        </label>
        <FaultsAt path={['text']} />
        <TagExpiry tagKey={itemKey} body={body} kept={draft.saved.body} catalogue={catalogue} onChange={setBody} />
        <label className="mt-3 block">
          <span className="mb-1 block font-medium">Also called</span>
          <AlsoCalled value={body.synonyms} onChange={(synonyms) => setBody(withSynonyms(body, synonyms))} />
        </label>
        <FaultsAt path={['synonyms']} />
        <TagLabels value={body.labels} onChange={(labels) => setBody(withLabels(body, labels))} />
        <FaultsAt path={['labels']} />
      </Editing>
      <Replacements tagKey={itemKey} retired={draft.retired} catalogue={catalogue} />
    </DefinitionPage>
  );
}

export default definitionRoute({
  kind: 'tag',
  thing: 'tag',
  all: ['/tags', 'The tag plan'],
  address: '/tags',
  useNew: () => <Empty title="A new tag is made in the tag plan" />,
  Editor: TagPage,
});
