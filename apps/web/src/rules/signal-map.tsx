import { type Catalogue, type MapBody } from '@eager-sieve/core';
import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { saysSame } from '../app/says-same';
import { useMay } from '../app/use-may';
import { type Draft } from '../app/use-draft';
import { Choice } from '../conditions/lines/inputs';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { FaultsAt } from '../ui/faults-at';
import { Empty } from '../ui/states';
import { MapCoverage, useMapValues } from './map-coverage';
import { detailWords, MapRows, type MapProps } from './map-rows';
import { Rehearsal } from './rehearsal';
import { Sweeps } from './sweeps';
import { textsOfAll } from './signal-details';

/** A table of what signals name → tags: per product, plan, role or course. */
function SignalMap({ draft }: { draft: Draft<'map'> }) {
  const { body, catalogue, mayWrite } = draft;
  const put = (next: Partial<MapBody>): void => draft.setBody({ ...body, ...next });
  const values = useMapValues(body, catalogue);
  const parts = { body, catalogue, put, known: values.data?.values.map(({ value }) => value) ?? [] };
  return (
    <DefinitionPage
      draft={draft}
      thing="signal map"
      sentence="Each row gives its tags when a signal names it, and takes that reason back when another does; with its last reason a tag goes."
    >
      <Editing>
        <MapSettings {...parts} />
        <MapRows {...parts} />
      </Editing>
      <MapCoverage
        body={body}
        values={values}
        mayWrite={mayWrite}
        onAdd={(named) => put({ rows: [...body.rows, ...named.map((value) => ({ value, add: [], remove: [] }))] })}
      />
      <MapPast draft={draft} />
    </DefinitionPage>
  );
}

/** What the map would make of the signals that came before it, and doing it. */
function MapPast({ draft }: { draft: Draft<'map'> }) {
  const { body, itemKey, isNew, retired, changed, written, name } = draft;
  const [rehearse, rehearsal] = api.useRehearseMapMutation();
  const [of, setOf] = useState<MapBody | null>(null);
  const mayRehearse = useMay('audiences:read');
  const isFresh = of !== null && saysSame(of, body);
  if (!mayRehearse || retired) return null;
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-3">
        <button
          type="button"
          data-rehearse
          className="btn btn-sm btn-outline btn-primary"
          disabled={rehearsal.isLoading}
          onClick={() => {
            setOf(body);
            void rehearse({ body: { map: written(), ...(isNew ? {} : { key: itemKey }) } });
          }}
        >
          {rehearsal.isLoading ? 'Rehearsing …' : 'Rehearse on what came before'} <kbd className="font-mono text-[11px]">r</kbd>
        </button>
        <span className="quiet">The map works on signals as they come; what came before stays as it is until the map is run on it.</span>
      </div>
      {rehearsal.error && (
        <p role="alert" className="text-error mb-3 font-medium">
          {errorMessage(rehearsal.error)}
        </p>
      )}
      {rehearsal.data && (
        <div className="mb-3">
          <Rehearsal result={rehearsal.data} stale={!isFresh} />
        </div>
      )}
      {!isNew && (
        <Sweeps
          what={{ kind: 'map', key: itemKey, name }}
          of="contact"
          title="Run it on what came before"
          means="On all signals that there are, as if each came now."
          always={false}
          not={changed ? 'Keep the map first' : body.on ? undefined : 'Turn the map on first'}
          wouldTouch={isFresh ? rehearsal.data?.touched : undefined}
        />
      )}
    </>
  );
}

/** By which signals its rows give and take, and by which of their details. */
function MapSettings({ body, catalogue, put }: MapProps) {
  const texts = textsOfAll([...body.adds, ...body.takes], catalogue);
  const named = (path: string): string => detailWords(body, path, catalogue);
  return (
    <div className="panel mb-3 grid grid-cols-[150px_minmax(0,1fr)] items-center gap-y-2 px-4 py-3">
      <span className="quiet">given when a contact</span>
      <div>
        <Signals side="adds" body={body} catalogue={catalogue} put={put} />
        <FaultsAt path={['adds']} />
      </div>
      <span className="quiet">taken back when</span>
      <div>
        <Signals side="takes" body={body} catalogue={catalogue} put={put} />
        <FaultsAt path={['takes']} />
      </div>
      <span className="quiet">rows are found by</span>
      <div>
        <Choice
          label="Detail that rows are found by"
          value={body.path}
          choices={texts.map((path) => [path, named(path)])}
          onPick={(path) => put({ path })}
        />
        <FaultsAt path={['path']} />
      </div>
      <span className="quiet">the reason is named by</span>
      <div>
        <Choice
          label="Detail that names the reason"
          value={body.reason}
          choices={texts.filter((path) => !path.includes('.')).map((path) => [path, named(path)])}
          onPick={(reason) => put({ reason })}
        />
        <FaultsAt path={['reason']} />
      </div>
      <span className="quiet">it is</span>
      <div>
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
    </div>
  );
}

function Signals({ side, body, catalogue, put }: Omit<MapProps, 'known'> & { side: 'adds' | 'takes' }) {
  return (
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
}

function newMap(catalogue: Catalogue) {
  if (catalogue.all('tag').length === 0) return <Empty title="A signal map needs tags to give">Make some in the tag plan first.</Empty>;
  const ids = (key: string): number[] => [catalogue.find('signalType', key)?.id ?? []].flat();
  return { on: true, path: 'items.product', reason: 'order', adds: ids('order.placed'), takes: ids('order.refunded'), rows: [] };
}

export default definitionRoute({
  kind: 'map',
  thing: 'signal map',
  all: ['/rules', 'All rules'],
  address: '/rules/maps',
  useNew: newMap,
  Editor: SignalMap,
});
