import { along, FLOW_KINDS, kindWord, type AnyDefinition, type Catalogue, type Flow } from '@eager-sieve/core';
import { linkHorizontal, scalePoint } from 'd3';

type Kind = (typeof FLOW_KINDS)[number];

/** The columns of the map, in the order in which things flow. */
const COLUMNS: readonly { readonly title: string; readonly kinds: readonly Kind[] }[] = [
  { title: 'comes in', kinds: ['signalType', 'form'] },
  { title: 'is turned by', kinds: ['map', 'rule', 'bundle'] },
  { title: 'into', kinds: ['tag', 'field', 'stage'] },
  { title: 'is weighed by', kinds: ['scorecard', 'routing'] },
  { title: 'gathered in', kinds: ['audience'] },
  { title: 'and sent', kinds: ['message'] },
];
const COLUMN = 172;
const BOX = 140;
const ROW = 27;
const TOP = 26;

interface FlowMapProps {
  readonly catalogue: Catalogue;
  readonly flows: ReadonlyMap<number, Flow>;
  readonly chosen: number | undefined;
  readonly onChoose: (of: string) => void;
}

interface Node {
  readonly definition: AnyDefinition;
  readonly x: number;
  readonly y: number;
}

/** Everything that hangs together, or what hangs together with one thing, in columns with a line for each dependency. */
export function FlowMap({ catalogue, flows, chosen, onChoose }: FlowMapProps) {
  const { nodes, height } = placed(catalogue, shownOf(flows, chosen));
  const byId = new Map<number, Node>(nodes.map((node) => [node.definition.id, node]));
  const line = linkHorizontal<unknown, readonly [number, number]>();
  return (
    <div className="panel mt-3 overflow-x-auto" tabIndex={0} role="region" aria-label="The map">
      <div className="relative" style={{ width: COLUMNS.length * COLUMN, height }}>
        <svg className="absolute inset-0" width={COLUMNS.length * COLUMN} height={height} aria-hidden>
          {nodes.flatMap((node) =>
            [...(flows.get(node.definition.id)?.to ?? [])].flatMap((to) => {
              const other = byId.get(to);
              if (!other) return [];
              const isNear = chosen !== undefined && (node.definition.id === chosen || to === chosen);
              const source = [node.x + BOX, node.y + ROW / 2 - 2] as const;
              const target = [other.x, other.y + ROW / 2 - 2] as const;
              return (
                <path
                  key={`${node.definition.id} ${to}`}
                  d={line({ source, target }) ?? ''}
                  className={`fill-none ${isNear ? 'stroke-primary' : 'stroke-base-content/25'}`}
                  strokeWidth={isNear ? 2 : 1}
                />
              );
            }),
          )}
        </svg>
        {COLUMNS.map(({ title }, index) => (
          <span key={title} className="quiet absolute top-1.5 text-[12px]" style={{ left: index * COLUMN + 10 }}>
            {title}
          </span>
        ))}
        {nodes.map(({ definition, x, y }) => (
          <NodeButton key={definition.id} definition={definition} x={x} y={y} isChosen={definition.id === chosen} onChoose={onChoose} />
        ))}
      </div>
    </div>
  );
}

interface NodeButtonProps extends Node {
  readonly isChosen: boolean;
  readonly onChoose: (of: string) => void;
}

function NodeButton({ definition, x, y, isChosen, onChoose }: NodeButtonProps) {
  const { kind, key, name, body } = definition;
  const words = kind === 'tag' ? key : kind === 'signalType' && 'verb' in body ? body.verb : name;
  const isOff = 'on' in body && !body.on;
  return (
    <button
      type="button"
      aria-pressed={isChosen}
      title={`${words}, ${kindWord(kind)}${isOff ? ', off' : ''}`}
      className={`absolute truncate rounded border px-1.5 text-left text-[12px] ${isChosen ? 'border-primary bg-primary text-primary-content' : 'border-base-300 bg-base-100'} ${isOff ? 'line-through' : ''} ${kind === 'tag' ? 'font-mono text-[11.5px]' : ''}`}
      style={{ left: x, top: y, width: BOX, height: ROW - 5 }}
      onClick={() => onChoose(isChosen ? '' : `${kind}/${key}`)}
    >
      {words}
    </button>
  );
}

/** What has any dependency; where one is chosen, what leads to it and from it. */
function shownOf(flows: ReadonlyMap<number, Flow>, chosen: number | undefined): ReadonlySet<number> {
  if (chosen === undefined) return new Set([...flows].flatMap(([id, { from, to }]) => (from.size + to.size > 0 ? [id] : [])));
  return new Set([chosen, ...along(flows, chosen, 'from').map(({ id }) => id), ...along(flows, chosen, 'to').map(({ id }) => id)]);
}

function placed(catalogue: Catalogue, shown: ReadonlySet<number>): { readonly nodes: readonly Node[]; readonly height: number } {
  const columns = COLUMNS.map(({ kinds }) =>
    kinds.flatMap((kind) => (catalogue.all(kind) as readonly AnyDefinition[]).filter(({ id }) => shown.has(id))),
  );
  const most = Math.max(1, ...columns.map((column) => column.length));
  const height = TOP + most * ROW + 8;
  const nodes = columns.flatMap((column, index) => {
    // A short column is spread, so that lines are less steep.
    const y = scalePoint(
      column.map(({ key, kind }) => `${kind} ${key}`),
      [TOP, Math.max(TOP, TOP + (most - 1) * ROW)],
    );
    return column.map((definition, place): Node => ({
      definition,
      x: index * COLUMN + 10,
      y: column.length === most ? TOP + place * ROW : (y(`${definition.kind} ${definition.key}`) ?? TOP),
    }));
  });
  return { nodes, height };
}
