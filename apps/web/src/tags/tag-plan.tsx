import { toKeys, usesOfTag, type Catalogue, type Definition } from '@eager-sieve/core';
import { Link } from 'react-router';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { useCatalogue } from '../app/use-catalogue';
import { count } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading } from '../ui/states';
import { Tag } from '../ui/tag';
import { Offer } from '../ui/offer';
import { RetiredList } from '../ui/retired';
import { NewTag } from './new-tag';
import { Uses } from './uses';

/** The tag plan is the tag catalogue: what each is for, who has it, which rule gives it, and where it is relied on. */
export default function TagPlan() {
  const catalogue = useCatalogue();
  if (!catalogue) return <Loading />;
  const families = catalogue.all('family');
  const tags = catalogue.all('tag');
  return (
    <Page
      title={`Tags: ${count(tags.length)}`}
      sentence={families.length > 0 ? `In ${families.length} families, each for one thing.` : undefined}
    >
      <Offer needs="definitions:write">
        <NewTag catalogue={catalogue} />
      </Offer>
      {tags.length === 0 && (
        <Empty title="No tag yet">A tag belongs to a family, which says what its tags are for: craft, snag, wish …</Empty>
      )}
      {families.map((family) => (
        <section key={family.key} className="mt-4">
          <h2 className="text-[15px]">
            <Link className="hover:underline" to={`/tags/families/${family.key}`}>
              {family.name}
            </Link>{' '}
            <span className="quiet font-sans text-[13px] font-normal">
              {family.body.purpose}
              {family.body.many ? '' : ' · one at a time'}
            </span>
          </h2>
          <table className="table w-full table-fixed">
            <thead>
              <tr className="quiet text-left text-[12px]">
                <th className="h-6.5 w-[22%]">Tag</th>
                <th className="w-[24%]">For whom</th>
                <th className="w-[12%]">Have it</th>
                <th className="w-[20%]">Given by</th>
                <th>Relied on in</th>
              </tr>
            </thead>
            <tbody>
              {tags
                .filter((tag) => tag.body.family === family.id)
                .map((tag) => (
                  <TagRow key={tag.key} tag={tag} catalogue={catalogue} />
                ))}
            </tbody>
          </table>
        </section>
      ))}
      <RetiredList kinds={['tag', 'family']} />
    </Page>
  );
}

function TagRow({ tag, catalogue }: { tag: Definition<'tag'>; catalogue: Catalogue }) {
  const mayCount = useMay('audiences:read');
  const { data } = api.useCountQuery(
    { body: { condition: toKeys({ kind: 'tag', tag: tag.id, op: 'has' }, catalogue) } },
    { skip: !mayCount },
  );
  const { givenBy, reliedOnIn } = usesOfTag(catalogue, tag.id);
  return (
    <tr className="border-base-300/60 h-9 border-b align-baseline">
      <td>
        <Link to={`/tags/${tag.key}`}>
          <Tag name={tag.key} />
        </Link>
      </td>
      <td className="truncate">{tag.name}</td>
      <td>{data ? count(data.count) : mayCount ? '…' : '—'}</td>
      <td className="truncate">
        <Uses of={givenBy} none="by hand" />
      </td>
      <td className="truncate">
        <Uses of={reliedOnIn} none="nothing" />
      </td>
    </tr>
  );
}
