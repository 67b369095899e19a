import { keyFrom, toKeys, usesOfTag, type Catalogue, type Definition, type TagUse } from '@eager-sieve/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { useSave } from '../app/use-save';
import { count } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading } from '../ui/states';
import { Tag } from '../ui/tag';
import { Labelled } from '../ui/labelled';
import { Offer } from '../ui/offer';

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
            {family.name}{' '}
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
    </Page>
  );
}

function TagRow({ tag, catalogue }: { tag: Definition<'tag'>; catalogue: Catalogue }) {
  const { data } = api.useCountQuery({ body: { condition: toKeys({ kind: 'tag', tag: tag.id, op: 'has' }, catalogue) } });
  const { givenBy, reliedOnIn } = usesOfTag(catalogue, tag.id);
  return (
    <tr className="border-base-300/60 h-9 border-b align-baseline">
      <td>
        <Tag name={tag.key} />
      </td>
      <td className="truncate">{tag.name}</td>
      <td>{data ? count(data.count) : '…'}</td>
      <td className="truncate">
        <Uses of={givenBy} none="by hand" />
      </td>
      <td className="truncate">
        <Uses of={reliedOnIn} none="nothing" />
      </td>
    </tr>
  );
}

const PLACES: Partial<Record<TagUse['kind'], string>> = {
  rule: '/rules',
  bundle: '/rules/bundles',
  map: '/rules/maps',
  routing: '/rules/routing',
  form: '/intake/forms',
  message: '/campaigns',
  audience: '/audiences',
  scorecard: '/scores',
};

function Uses({ of, none }: { of: readonly TagUse[]; none: string }) {
  if (of.length === 0) return <span className="quiet">{none}</span>;
  return of.map(({ kind, key, name, on }) => (
    <span key={`${kind} ${key}`} className="mr-2">
      <Link className="leads" to={`${PLACES[kind] ?? ''}/${key}`}>
        {name}
      </Link>
      {!on && <span className="text-error"> (off)</span>}
    </span>
  ));
}

function NewTag({ catalogue }: { catalogue: Catalogue }) {
  const [family, setFamily] = useState('');
  const [newFamily, setNewFamily] = useState('');
  const [name, setName] = useState('');
  const [value, setValue] = useState<'' | 'number' | 'date'>('');
  const [save, saving] = useSave();
  const families = catalogue.all('family');
  const chosen = family || families[0]?.key || '+';
  const add = async (): Promise<void> => {
    const familyKey = chosen === '+' ? keyFrom(newFamily, new Set(families.map((each) => each.key))).replaceAll('.', '-') : chosen;
    const prefix = catalogue.find('family', familyKey)?.body.prefix ?? familyKey.slice(0, 24);
    const key = `${prefix}.${keyFrom(name).replaceAll('.', '-')}`;
    const document = {
      ...(chosen === '+' ? { families: [{ key: familyKey, name: newFamily.trim(), prefix, purpose: '', many: true }] } : {}),
      tags: [{ key, name: name.trim(), family: familyKey, ...(value ? { value } : {}) }],
    };
    if (await save(document, `${key} is in the plan.`)) {
      setName('');
      setNewFamily('');
      setFamily(familyKey);
    }
  };
  return (
    <form
      className="panel flex flex-wrap items-end gap-3 p-3.5"
      onSubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      <Labelled label="Family">
        <select className="select select-sm w-auto" value={chosen} onChange={(event) => setFamily(event.target.value)}>
          {families.map((each) => (
            <option key={each.key} value={each.key}>
              {each.name}
            </option>
          ))}
          <option value="+">a new family</option>
        </select>
      </Labelled>
      {chosen === '+' && (
        <Labelled label="Name of the family">
          <input className="input input-sm w-auto" required value={newFamily} onChange={(event) => setNewFamily(event.target.value)} />
        </Labelled>
      )}
      <Labelled label="New tag: who has it?">
        <input
          className="input input-sm w-64"
          required
          placeholder="cares for celadon"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Labelled>
      <Labelled label="Carries">
        <select
          className="select select-sm w-auto"
          value={value}
          onChange={(event) => setValue(event.target.value as '' | 'number' | 'date')}
        >
          <option value="">nothing</option>
          <option value="number">a number</option>
          <option value="date">a date</option>
        </select>
      </Labelled>
      <button className="btn btn-sm btn-outline btn-primary" disabled={saving || name.trim() === ''}>
        Add tag
      </button>
    </form>
  );
}
