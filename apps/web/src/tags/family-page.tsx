import { Link } from 'react-router';
import { type Draft } from '../app/use-draft';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { FaultsAt } from '../ui/faults-at';
import { times } from '../ui/number';
import { PersonInput } from '../ui/person-input';
import { Empty } from '../ui/states';
import { Tag } from '../ui/tag';

/** One family of tags: what its tags are for, and whether somebody can have several of them. */
function FamilyPage({ draft }: { draft: Draft<'family'> }) {
  const { itemKey, body, catalogue, setBody } = draft;
  const id = catalogue.find('family', itemKey)?.id;
  const tags = catalogue.all('tag').filter((tag) => tag.body.family === id);
  return (
    <DefinitionPage draft={draft} thing="tag family" sentence={`Has ${times(tags.length, 'tag')}, each named after ${body.prefix}.`}>
      <Editing>
        <label className="mb-3 block">
          <span className="mb-1 block font-medium">What its tags are for</span>
          <textarea
            className="textarea textarea-sm h-20 w-full py-1.5"
            value={body.purpose}
            onChange={(event) => setBody({ ...body, purpose: event.target.value })}
          />
        </label>
        <FaultsAt path={['purpose']} />
        <label className="mb-3 flex cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs"
            checked={!body.many}
            onChange={(event) => setBody({ ...body, many: !event.target.checked })}
          />
          one at a time: a new tag of this family takes the place of the one before
        </label>
        <FaultsAt path={['many']} />
        <div className="mb-3">
          <span className="mb-1 block font-medium">Who minds it</span>
          <PersonInput
            label="Who minds it"
            value={body.minder ?? ''}
            placeholder="nobody"
            onChange={(minder) => {
              const { minder: _minder, ...rest } = body;
              setBody(minder ? { ...rest, minder } : rest);
            }}
          />
        </div>
        <FaultsAt path={['minder']} />
      </Editing>
      {tags.length === 0 ? (
        <Empty title="No tag in this family yet" />
      ) : (
        <ul className="panel divide-base-300/60 divide-y" aria-label="Tags of this family">
          {tags.map((tag) => (
            <li key={tag.key} className="px-4 py-2">
              <Link to={`/tags/${tag.key}`}>
                <Tag name={tag.key} />
              </Link>{' '}
              <span className="quiet">{tag.name}</span>
            </li>
          ))}
        </ul>
      )}
    </DefinitionPage>
  );
}

export default definitionRoute({
  kind: 'family',
  thing: 'tag family',
  all: ['/tags', 'The tag plan'],
  address: '/tags/families',
  useNew: () => <Empty title="A new family is made with its first tag, in the tag plan" />,
  Editor: FamilyPage,
});
