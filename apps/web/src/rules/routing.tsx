import { keyFrom, type Catalogue, type RoutingBody } from '@eager-sieve/core';
import { useState } from 'react';
import { useParams } from 'react-router';
import { useCatalogue } from '../app/use-catalogue';
import { useDraft } from '../app/use-draft';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { DraftPage } from '../ui/draft-page';
import { PersonsInput, useFirstPerson } from '../ui/person-input';
import { Opener } from '../ui/opener';
import { Loading } from '../ui/states';
import { Gone } from './gone';
import { FaultsAt } from '../ui/faults-at';

type Row = RoutingBody['rows'][number];

export default function RoutingPage() {
  const { key = '' } = useParams();
  const catalogue = useCatalogue();
  const first = useFirstPerson();
  if (!catalogue) return <Loading />;
  const table = catalogue.find('routing', key);
  if (key !== 'new' && !table) return <Gone thing="routing table" />;
  return (
    <Routing
      key={`${key} ${table?.version ?? 0}`}
      itemKey={key}
      name={table?.name ?? ''}
      saved={table?.body ?? { rows: [{ key: 'everyone', owners: [first] }] }}
      catalogue={catalogue}
    />
  );
}

/** Who gets a contact: the first row that fits; where it names several, they take turns. */
function Routing({ itemKey, name, saved, catalogue }: { itemKey: string; name: string; saved: RoutingBody; catalogue: Catalogue }) {
  const draft = useDraft({ kind: 'routing', itemKey, saved: { name, body: saved }, catalogue, address: '/rules/routing' });
  const { rows } = draft.body;
  const [open, setOpen] = useState<number | null>(null);
  const first = useFirstPerson();
  const put = (next: Row[]): void => draft.setBody({ rows: next });
  const putIf = (index: number, row: Row, condition: ReturnType<typeof asGroup>): void => {
    const { if: _if, ...rest } = row;
    put(rows.with(index, condition.of.length === 0 ? rest : { ...rest, if: condition }));
  };
  return (
    <DraftPage
      kind="routing"
      itemKey={itemKey}
      catalogue={catalogue}
      draft={draft}
      thing="routing table"
      kept={`${draft.name} is kept.`}
      sentence="The first row that fits says who minds the contact; where it names several, they take turns."
    >
      <ol className="panel divide-base-300/60 divide-y">
        {rows.map((row, index) => (
          <li key={row.key} className="px-4 py-2.5">
            <FaultsAt path={['rows', index]} />
            <div className="flex flex-wrap items-center gap-2">
              <span className="quiet w-5">{index + 1}</span>
              <Opener open={open === index} onToggle={() => setOpen(open === index ? null : index)}>
                {row.if ? 'where its conditions hold' : 'everyone'}
              </Opener>
              <span className="quiet">to</span>
              <PersonsInput
                label={`Owners of row ${index + 1}`}
                values={row.owners.filter(Boolean)}
                onChange={(owners) => put(rows.with(index, { ...row, owners }))}
              />
              {row.owners.length > 1 && <span className="quiet">in turn</span>}
              {rows.length > 1 && (
                <button type="button" className="btn btn-xs ml-auto" onClick={() => put(rows.toSpliced(index, 1))}>
                  Remove
                </button>
              )}
            </div>
            {open === index && (
              <div className="appears mt-2">
                <Outline
                  at={['rows', index, 'if']}
                  value={asGroup(row.if)}
                  catalogue={catalogue}
                  onChange={(condition) => putIf(index, row, condition)}
                />
              </div>
            )}
          </li>
        ))}
      </ol>
      <button
        type="button"
        className="btn btn-xs mt-2 self-start"
        onClick={() => put([...rows, { key: keyFrom('row', new Set(rows.map((row) => row.key))), owners: [first] }])}
      >
        + row
      </button>
    </DraftPage>
  );
}
