import { toWrittenBody, usesOfTag, type Catalogue, type Definition } from '@eager-sieve/core';
import { type TagFiguresView } from '@eager-sieve/contracts';
import { useMemo } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { useCatalogue } from '../app/use-catalogue';
import { useSave } from '../app/use-save';
import { count } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading } from '../ui/states';
import { Tabs } from '../ui/tabs';
import { Tag } from '../ui/tag';
import { Offer } from '../ui/offer';
import { RetiredList } from '../ui/retired';
import { When } from '../ui/when';
import { Wide } from '../ui/wide';
import { findingsIn, Hygiene } from './hygiene';
import { NewTag } from './new-tag';
import { PlanFile } from './plan-file';
import { TagMoves } from './tag-moves';
import { Uses } from './uses';

/** The tag plan is the tag catalogue: what each is for, who has it and since when, what gives it, where it is relied on, and what is worth a look. */
export default function TagPlan() {
  const catalogue = useCatalogue();
  const mayCount = useMay('audiences:read');
  const { data: figures } = api.useTagFiguresQuery(undefined, { skip: !mayCount });
  const [search, setSearch] = useSearchParams();
  const findings = useMemo(() => (catalogue && figures ? findingsIn(catalogue, figures) : undefined), [catalogue, figures]);
  if (!catalogue) return <Loading />;
  const families = catalogue.all('family');
  const tags = catalogue.all('tag');
  const open = search.get('show') === 'look' ? 'look' : 'plan';
  return (
    <Page
      title={`Tags: ${count(tags.length)}`}
      sentence={families.length > 0 ? `In ${families.length} families, each for one thing.` : undefined}
      meta={tags.length > 0 && <PlanFile catalogue={catalogue} figures={figures} />}
    >
      {mayCount && tags.length > 0 && (
        <Tabs
          label="Views of the plan"
          tabs={[
            { id: 'plan', words: 'The plan' },
            { id: 'look', words: `Worth a look${findings ? ` (${findings.length})` : ''}` },
          ]}
          open={open}
          onOpen={(id) => setSearch(id === 'plan' ? {} : { show: id }, { replace: true })}
        />
      )}
      {open === 'look' && mayCount ? (
        findings ? (
          <Hygiene catalogue={catalogue} findings={findings} />
        ) : (
          <Loading />
        )
      ) : (
        <Plan catalogue={catalogue} figures={figures} />
      )}
    </Page>
  );
}

function Plan({ catalogue, figures }: { catalogue: Catalogue; figures: TagFiguresView | undefined }) {
  const tags = catalogue.all('tag');
  const families = catalogue.families();
  const [save, saving] = useSave();
  const move = (index: number, by: number): void => {
    const moved = families.toSpliced(index, 1).toSpliced(index + by, 0, ...families.slice(index, index + 1));
    const written = moved.map(({ key, name, body }, place) => ({
      ...{ key, name },
      ...toWrittenBody('family', { ...body, position: place + 1 }, catalogue),
    }));
    void save({ families: written }, 'The plan is in its new order.');
  };
  return (
    <>
      <div className="mt-3 print:hidden">
        <Offer needs="definitions:write">
          <NewTag catalogue={catalogue} />
        </Offer>
      </div>
      {tags.length === 0 && (
        <Empty title="No tag yet">A tag belongs to a family, which says what its tags are for: craft, snag, wish …</Empty>
      )}
      {families.map((family, index) => (
        <section key={family.key} className="group mt-4 break-inside-avoid">
          <div className="flex flex-wrap items-baseline gap-x-2">
            <h2 className="text-[15px]">
              <Link className="hover:underline" to={`/tags/families/${family.key}`}>
                {family.name}
              </Link>{' '}
              <span className="quiet font-sans text-[13px] font-normal">
                {family.body.purpose}
                {family.body.many ? '' : ' · one at a time'}
                {family.body.minder ? ` · minded by ${family.body.minder}` : ''}
              </span>
            </h2>
            <Offer needs="definitions:write">
              <span className="ml-auto flex gap-1 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 print:hidden">
                <button
                  type="button"
                  className="btn btn-xs"
                  aria-label={`${family.name} up`}
                  disabled={saving || index === 0}
                  onClick={() => move(index, -1)}
                >
                  ↑
                </button>
                <button
                  type="button"
                  className="btn btn-xs"
                  aria-label={`${family.name} down`}
                  disabled={saving || index === families.length - 1}
                  onClick={() => move(index, 1)}
                >
                  ↓
                </button>
              </span>
            </Offer>
          </div>
          <Wide>
            <table className="table w-full min-w-[860px] table-fixed">
              <thead>
                <tr className="quiet text-left text-[12px]">
                  <th className="h-6.5 w-[18%]">Tag</th>
                  <th className="w-[20%]">For whom</th>
                  <th className="w-[8%] text-right">Have it</th>
                  <th className="w-[124px] pl-4">Last 13 weeks</th>
                  <th className="w-[11%]">Given last</th>
                  <th className="w-[17%]">Given by</th>
                  <th>Relied on in</th>
                </tr>
              </thead>
              <tbody>
                {tags
                  .filter((tag) => tag.body.family === family.id)
                  .map((tag) => (
                    <TagRow key={tag.key} tag={tag} catalogue={catalogue} figures={figures} />
                  ))}
              </tbody>
            </table>
          </Wide>
        </section>
      ))}
      <RetiredList kinds={['tag', 'family']} />
    </>
  );
}

interface TagRowProps {
  readonly tag: Definition<'tag'>;
  readonly catalogue: Catalogue;
  readonly figures: TagFiguresView | undefined;
}

function TagRow({ tag, catalogue, figures }: TagRowProps) {
  const mayCount = useMay('audiences:read');
  const counted = figures?.tags.find(({ key }) => key === tag.key);
  const { givenBy, reliedOnIn } = usesOfTag(catalogue, tag.id);
  return (
    <tr className="border-base-300/60 h-9 border-b align-middle">
      <td className="truncate">
        <Link to={`/tags/${tag.key}`}>
          <Tag name={tag.key} />
        </Link>
      </td>
      <td className="truncate" title={tag.body.purpose}>
        {tag.name}
      </td>
      <td className="text-right">{counted ? count(counted.people) : mayCount ? '…' : '—'}</td>
      <td className="pl-4">{counted && <TagMoves given={counted.given} lost={counted.lost} name={tag.key} />}</td>
      <td className="quiet">{counted && (counted.lastGivenAt ? <When at={counted.lastGivenAt} /> : 'never')}</td>
      <td>
        <Uses of={givenBy} none={counted && !counted.givenByOthers ? 'nothing' : 'by hand'} />
      </td>
      <td>
        <Uses of={reliedOnIn} none="nothing" />
      </td>
    </tr>
  );
}
