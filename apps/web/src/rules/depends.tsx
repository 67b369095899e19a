import {
  along,
  definitionKinds,
  FLOW_KINDS,
  flowsIn,
  kindWord,
  type AnyDefinition,
  type Catalogue,
  type DefinitionKind,
  type Flow,
} from '@eager-sieve/core';
import { useMemo } from 'react';
import { Link, useSearchParams } from 'react-router';
import { addressOf } from '../app/addresses';
import { useCatalogue } from '../app/use-catalogue';
import { count } from '../ui/number';
import { DefinitionSelect } from '../ui/definition-select';
import { Page } from '../ui/page';
import { Empty, Loading } from '../ui/states';
import { FlowMap } from './flow-map';
import { RuleFindings } from './rule-findings';

/** What flows into what: from what comes in to what goes out. And what is worth a look before anything runs. */
export default function Depends() {
  const catalogue = useCatalogue();
  const [search, setSearch] = useSearchParams();
  const flows = useMemo(() => (catalogue ? flowsIn(catalogue) : undefined), [catalogue]);
  if (!catalogue || !flows) return <Loading />;
  const [, kind = '', key = ''] = /^(\w+)\/(.+)$/.exec(search.get('of') ?? '') ?? [];
  const chosen = definitionKinds.includes(kind as 'rule') ? (catalogue.find(kind as 'rule', key) as AnyDefinition | undefined) : undefined;
  const choose = (of: string): void => setSearch(of === '' ? {} : { of }, { replace: true });
  const groups = FLOW_KINDS.map((kind) => ({ kind, title: kindWord(kind), definitions: linkedOf(kind, catalogue, flows) }));
  return (
    <Page
      title="What depends on what"
      sentence="From where things come in to where they go out. Choose one to see only what leads to it and from it."
    >
      <RuleFindings catalogue={catalogue} />
      <div className="mt-4 flex flex-wrap items-center gap-3">
        <DefinitionSelect
          label="Show only what hangs together with"
          none="everything"
          value={chosen ? `${chosen.kind}/${chosen.key}` : ''}
          groups={groups}
          onPick={choose}
        />
        {chosen && (
          <>
            <Link className="leads" to={addressOf(chosen.kind, chosen.key)}>
              To the {kindWord(chosen.kind)}
            </Link>
            <button type="button" className="btn btn-xs" onClick={() => choose('')}>
              Show everything
            </button>
          </>
        )}
      </div>
      {groups.every(({ definitions }) => definitions.length === 0) ? (
        <Empty title="Nothing depends on anything yet">Rules, scores and audiences are drawn here as soon as they name each other.</Empty>
      ) : (
        <FlowMap catalogue={catalogue} flows={flows} chosen={chosen?.id} onChoose={choose} />
      )}
      {chosen && <Alongs catalogue={catalogue} flows={flows} chosen={chosen} />}
    </Page>
  );
}

/** Those of a kind that hang together with anything. */
const linkedOf = (kind: DefinitionKind, catalogue: Catalogue, flows: ReadonlyMap<number, Flow>): readonly AnyDefinition[] =>
  (catalogue.all(kind) as readonly AnyDefinition[]).filter(({ id }) => {
    const flow = flows.get(id);
    return flow !== undefined && flow.from.size + flow.to.size > 0;
  });

/** The same as lists: what leads to it, and what it leads to, the nearest first. */
function Alongs({ catalogue, flows, chosen }: { catalogue: Catalogue; flows: ReadonlyMap<number, Flow>; chosen: AnyDefinition }) {
  return (
    <div className="mt-3 grid grid-cols-2 gap-4 max-md:grid-cols-1">
      {(['from', 'to'] as const).map((way) => {
        const found = along(flows, chosen.id, way);
        const name = chosen.kind === 'tag' ? chosen.key : chosen.name;
        const title = way === 'from' ? `Leads to ${name}` : `${name} leads to`;
        return (
          <section key={way} aria-label={title}>
            <h2 className="text-[15px]">
              {title} <span className="quiet font-sans text-[13px] font-normal">{count(found.length)}</span>
            </h2>
            {found.length === 0 && <p className="quiet">Nothing.</p>}
            <ul className="mt-1">
              {found.map(({ id, steps }) => {
                const each = catalogue.any(id);
                return (
                  each && (
                    <li key={id} className="py-0.5">
                      <Link className="leads" to={addressOf(each.kind, each.key)}>
                        {each.kind === 'tag' ? each.key : each.name}
                      </Link>{' '}
                      <span className="quiet text-[12.5px]">
                        {kindWord(each.kind)}
                        {steps > 1 && `, ${steps} steps away`}
                        {'on' in each.body && !each.body.on && <span className="text-error"> (off)</span>}
                      </span>
                    </li>
                  )
                );
              })}
            </ul>
          </section>
        );
      })}
    </div>
  );
}
