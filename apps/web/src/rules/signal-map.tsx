import { type Catalogue, type MapBody } from '@eager-sieve/core';
import { useParams } from 'react-router';
import { useCatalogue } from '../app/use-catalogue';
import { useDraft } from '../app/use-draft';
import { Choice } from '../conditions/lines/inputs';
import { DraftPage } from '../ui/draft-page';
import { Empty, Loading } from '../ui/states';
import { Tag } from '../ui/tag';
import { Gone } from './gone';
import { textsOfAll } from './signal-details';
import { FaultsAt } from '../ui/faults-at';

type Row = MapBody['rows'][number];

export default function MapPage() {
  const { key = '' } = useParams();
  const catalogue = useCatalogue();
  if (!catalogue) return <Loading />;
  const map = catalogue.find('map', key);
  if (key !== 'new' && !map) return <Gone thing="signal map" />;
  const ids = (key_: string): number[] => [catalogue.find('signalType', key_)?.id ?? []].flat();
  const saved: MapBody = map?.body ?? {
    on: true,
    path: 'items.product',
    reason: 'order',
    adds: ids('order.placed'),
    takes: ids('order.refunded'),
    rows: [],
  };
  if (catalogue.all('tag').length === 0) return <Empty title="A signal map needs tags to give">Make some in the tag plan first.</Empty>;
  return <SignalMap key={`${key} ${map?.version ?? 0}`} itemKey={key} name={map?.name ?? ''} saved={saved} catalogue={catalogue} />;
}

/** A table of what signals name → tags: per product, plan, role or course. */
function SignalMap({ itemKey, name, saved, catalogue }: { itemKey: string; name: string; saved: MapBody; catalogue: Catalogue }) {
  const draft = useDraft({ kind: 'map', itemKey, saved: { name, body: saved }, catalogue, address: '/rules/maps' });
  const { body } = draft;
  const put = (next: Partial<MapBody>): void => draft.setBody({ ...body, ...next });
  const row = (index: number, next: Row): void => put({ rows: body.rows.with(index, next) });
  const types = (side: 'adds' | 'takes') => (
    <span className="inline-flex flex-wrap items-center gap-2">
      {body[side].map((id) => (
        <button
          key={id}
          type="button"
          className="btn btn-xs"
          aria-label={`Not: ${catalogue.body('signalType', id)?.verb ?? ''}`}
          onClick={() => put({ [side]: body[side].filter((each) => each !== id) })}
        >
          {catalogue.body('signalType', id)?.verb} ×
        </button>
      ))}
      <select
        className="select select-sm w-auto max-w-44"
        aria-label={side === 'adds' ? 'Signals that give' : 'Signals that take back'}
        value=""
        onChange={(event) => put({ [side]: [...body[side], Number(event.target.value)] })}
      >
        <option value="">+ signal</option>
        {catalogue
          .all('signalType')
          .filter((type) => !body[side].includes(type.id))
          .map((type) => (
            <option key={type.id} value={type.id}>
              {type.body.verb}
            </option>
          ))}
      </select>
    </span>
  );
  const texts = textsOfAll([...body.adds, ...body.takes], catalogue);
  return (
    <DraftPage
      kind="map"
      itemKey={itemKey}
      catalogue={catalogue}
      draft={draft}
      thing="signal map"
      kept={`${draft.name} is kept.`}
      sentence="Each row gives its tags when a signal names it, and takes that reason back when another does; with its last reason a tag goes."
    >
      <div className="panel mb-3 grid grid-cols-[150px_minmax(0,1fr)] items-center gap-y-2 px-4 py-3">
        <span className="quiet">given when a contact</span>
        <div>
          {types('adds')}
          <FaultsAt path={['adds']} />
        </div>
        <span className="quiet">taken back when</span>
        <div>
          {types('takes')}
          <FaultsAt path={['takes']} />
        </div>
        <span className="quiet">rows are found by</span>
        <div>
          <Choice
            label="Detail that rows are found by"
            value={body.path}
            choices={texts.map((path) => [path, path])}
            onPick={(path) => put({ path })}
          />
          <FaultsAt path={['path']} />
        </div>
        <span className="quiet">the reason is named by</span>
        <div>
          <Choice
            label="Detail that names the reason"
            value={body.reason}
            choices={texts.filter((path) => !path.includes('.')).map((path) => [path, path])}
            onPick={(reason) => put({ reason })}
          />
          <FaultsAt path={['reason']} />
        </div>
        <span className="quiet">it is</span>
        <Choice
          label="On or off"
          value={body.on ? 'on' : 'off'}
          choices={[
            ['on', 'on'],
            ['off', 'off'],
          ]}
          onPick={(on) => put({ on: on === 'on' })}
        />
      </div>
      <table className="table w-full table-fixed">
        <thead>
          <tr className="quiet text-left text-[12px]">
            <th className="h-6.5 w-[28%]">{body.path} is</th>
            <th className="w-[24%]">gives</th>
            <th className="w-[20%]">takes off</th>
            <th className="w-[20%]">when taken back, gives</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {body.rows.map((each, index) => (
            <tr key={index} className="border-base-300/60 border-b align-top">
              <td className="py-1.5 pr-3">
                <input
                  className="input input-sm w-full"
                  aria-label={`Value of row ${index + 1}`}
                  value={each.value}
                  onChange={(event) => row(index, { ...each, value: event.target.value })}
                />
                <FaultsAt path={['rows', index]} />
              </td>
              <td className="py-1.5">
                <Tags
                  label={`given by row ${index + 1}`}
                  chosen={each.add}
                  catalogue={catalogue}
                  onChange={(add) => row(index, { ...each, add })}
                />
              </td>
              <td className="py-1.5">
                <Tags
                  label={`taken off by row ${index + 1}`}
                  chosen={each.remove}
                  catalogue={catalogue}
                  onChange={(remove) => row(index, { ...each, remove })}
                />
              </td>
              <td className="py-1.5">
                <Tags
                  label={`given back by row ${index + 1}`}
                  chosen={each.whenTaken?.add ?? []}
                  catalogue={catalogue}
                  onChange={(add) => row(index, { ...each, whenTaken: { add, remove: each.whenTaken?.remove ?? [] } })}
                />
              </td>
              <td className="py-1.5 text-right">
                <button type="button" className="btn btn-xs" onClick={() => put({ rows: body.rows.toSpliced(index, 1) })}>
                  Remove
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <button
        type="button"
        className="btn btn-xs mt-2 self-start"
        onClick={() => put({ rows: [...body.rows, { value: 'product or plan', add: [], remove: [] }] })}
      >
        + row
      </button>
    </DraftPage>
  );
}

function Tags({
  label,
  chosen,
  catalogue,
  onChange,
}: {
  label: string;
  chosen: readonly number[];
  catalogue: Catalogue;
  onChange: (ids: number[]) => void;
}) {
  return (
    <span className="flex flex-wrap items-center gap-x-2 gap-y-1">
      {chosen.map((id) => (
        <button
          key={id}
          type="button"
          className="cursor-pointer"
          title="Leave it out"
          onClick={() => onChange(chosen.filter((each) => each !== id))}
        >
          <Tag name={catalogue.get('tag', id)?.key ?? ''} /> ×
        </button>
      ))}
      <select
        className="select select-sm w-auto max-w-32"
        aria-label={`Tags ${label}`}
        value=""
        onChange={(event) => onChange([...chosen, Number(event.target.value)])}
      >
        <option value="">+ tag</option>
        {catalogue
          .all('tag')
          .filter((tag) => !chosen.includes(tag.id))
          .map((tag) => (
            <option key={tag.id} value={tag.id}>
              {tag.key}
            </option>
          ))}
      </select>
    </span>
  );
}
