import { numbersOf, pathWords, type DetailLeaf, type LeafOf, type SignalTypes } from '@eager-sieve/core';
import { DurationEditor, ALL } from '../test-editor';
import { WhereEditor } from '../where-editor';
import { AT_LEAST_ONCE, Choice, LimitInput, WindowInput } from './inputs';
import { withPart, type LineProps } from './line';

type SignalLeaf = LeafOf<'signal'>;
type Measured = 'times' | 'days' | 'sum' | 'first' | 'latest';

const measuredBy = (leaf: SignalLeaf): Measured => (leaf.days ? 'days' : leaf.sum ? 'sum' : (leaf.pick ?? 'times'));

/** Something happened: so often, on so many days, summing to so much, or only the first or the latest time. */
export function SignalLine({ leaf, catalogue, onChange }: LineProps<'signal'>) {
  const fields = catalogue.detailsOf(catalogue.signalTypes(leaf.type));
  const sums = numbersOf(fields);
  const by = measuredBy(leaf);
  const measured = (next: Measured): SignalLeaf => {
    const { count: _count, days: _days, sum: _sum, pick: _pick, ...rest } = leaf;
    if (next === 'times') return rest;
    if (next === 'days') return { ...rest, days: { op: '>=', value: 2 } };
    if (next === 'sum') return { ...rest, sum: { path: sums[0] ?? 'amount', op: '>=', value: 100 } };
    return { ...rest, pick: next };
  };
  return (
    <>
      <Choice
        label="measured by"
        value={by}
        choices={[
          ['times', 'so many times'],
          ['days', 'on so many days'],
          ...(sums.length > 0 ? [['sum', 'summing to'] as const] : []),
          ['first', 'only the first'],
          ['latest', 'only the latest'],
        ]}
        onPick={(next) => onChange(measured(next as Measured))}
      />
      {by === 'times' && (
        <LimitInput label="how often" unit="times" value={leaf.count ?? AT_LEAST_ONCE} onChange={(count) => onChange({ ...leaf, count })} />
      )}
      {leaf.days && <LimitInput label="on how many" unit="days" value={leaf.days} onChange={(days) => onChange({ ...leaf, days })} />}
      {leaf.sum && (
        <>
          <Choice
            label="sum of"
            value={leaf.sum.path}
            choices={sums.map((path) => [path, pathWords(path, fields)])}
            onPick={(path) => leaf.sum && onChange({ ...leaf, sum: { ...leaf.sum, path } })}
          />
          <LimitInput
            label="to how much"
            unit="sum"
            step="any"
            value={leaf.sum}
            onChange={(limit) => leaf.sum && onChange({ ...leaf, sum: { path: leaf.sum.path, ...limit } })}
          />
        </>
      )}
      <WindowInput label="when" words="ever" value={leaf.within} onChange={(within) => onChange(withPart(leaf, 'within', within))} />
      <OtherTypes leaf={leaf} catalogue={catalogue} onChange={onChange} />
      <div className="basis-full">
        <WhereEditor
          of={catalogue.signalTypes(leaf.type)}
          where={leaf.where ?? []}
          catalogue={catalogue}
          onChange={(where) => onChange(withPart(leaf, 'where', where))}
        />
      </div>
      <Then leaf={leaf} catalogue={catalogue} onChange={onChange} />
    </>
  );
}

/** Several types may stand for one another: any of them counts. */
function OtherTypes({ leaf, catalogue, onChange }: LineProps<'signal'>) {
  if (typeof leaf.type === 'string') return null;
  const types = [leaf.type].flat();
  const put = (next: readonly number[]): void => onChange({ ...leaf, type: next.length === 1 ? (next[0] as number) : [...next] });
  return (
    <span className="inline-flex flex-wrap items-center gap-2">
      {types.slice(1).map((id) => (
        <span key={id} className="inline-flex items-center gap-1">
          <span className="quiet">or</span> {catalogue.body('signalType', id)?.verb}
          <button
            type="button"
            className="btn btn-xs"
            aria-label={`Not: ${catalogue.body('signalType', id)?.verb ?? ''}`}
            onClick={() => put(types.filter((each) => each !== id))}
          >
            ×
          </button>
        </span>
      ))}
      <select
        className="select select-sm w-auto max-w-36"
        aria-label="or another type"
        value=""
        onChange={(event) => put([...types, Number(event.target.value)])}
      >
        <option value="">or …</option>
        {catalogue
          .all('signalType')
          .filter((type) => !types.includes(type.id))
          .map((type) => (
            <option key={type.id} value={type.id}>
              {type.body.verb}
            </option>
          ))}
      </select>
    </span>
  );
}

function Then({ leaf, catalogue, onChange }: LineProps<'signal'>) {
  const { then } = leaf;
  const kind = then ? (then.happens ? 'yes' : 'no') : 'any';
  const first = catalogue.find('signalType', 'order.placed')?.id ?? catalogue.all('signalType')[0]?.id ?? -1;
  return (
    <div className="flex basis-full flex-wrap items-center gap-2">
      <Choice
        label="what came after"
        value={kind}
        choices={[
          ['any', 'whatever came after'],
          ['yes', 'followed by'],
          ['no', 'not followed by'],
        ]}
        onPick={(next) =>
          onChange(withPart(leaf, 'then', next === 'any' ? undefined : { ...(then ?? { type: first }), happens: next === 'yes' }))
        }
      />
      {then && (
        <>
          <TypeChoice
            label="followed by what"
            value={then.type}
            catalogue={catalogue}
            onPick={(type) => {
              const { where: _where, ...rest } = then;
              onChange({ ...leaf, then: { ...rest, type } });
            }}
          />
          <Choice
            label="within a time"
            value={then.within ? 'within' : 'ever'}
            choices={[
              ['ever', 'at any time after'],
              ['within', 'within'],
            ]}
            onPick={(next) => {
              const { within: _within, ...rest } = then;
              onChange({ ...leaf, then: next === 'ever' ? rest : { ...rest, within: { n: 2, unit: 'hours' } } });
            }}
          />
          {then.within && (
            <DurationEditor
              value={then.within}
              units={ALL}
              label="followed within"
              onChange={(within) => onChange({ ...leaf, then: { ...then, within: { n: within.n, unit: within.unit as 'days' } } })}
            />
          )}
          <div className="basis-full">
            <WhereEditor
              name="detail of what followed"
              of={catalogue.signalTypes(then.type)}
              where={then.where ?? []}
              catalogue={catalogue}
              onChange={(where) => {
                const { where: _where, ...rest } = then;
                onChange({ ...leaf, then: where.length > 0 ? { ...rest, where } : rest });
              }}
            />
          </div>
        </>
      )}
    </div>
  );
}

function TypeChoice({
  label,
  value,
  catalogue,
  onPick,
}: {
  label: string;
  value: SignalTypes;
  catalogue: LineProps<'signal'>['catalogue'];
  onPick: (type: SignalTypes) => void;
}) {
  return (
    <Choice
      label={label}
      value={typeof value === 'string' ? value : String([value].flat()[0])}
      choices={[
        ['from them', 'did anything'],
        ['from us', 'heard from us'],
        ...catalogue.all('signalType').map((type) => [String(type.id), type.body.verb] as const),
      ]}
      onPick={(type) => onPick(type === 'from them' || type === 'from us' ? type : Number(type))}
    />
  );
}

/** How many deals there are with such details. */
export function DealLine({ leaf, catalogue, onChange }: LineProps<'deal'>) {
  return (
    <>
      <LimitInput label="how many" unit="deals" value={leaf.count ?? AT_LEAST_ONCE} onChange={(count) => onChange({ ...leaf, count })} />
      <div className="basis-full">
        <WhereEditor
          of="deals"
          where={leaf.where ?? []}
          catalogue={catalogue}
          onChange={(where) =>
            onChange(
              withPart(
                leaf,
                'where',
                where.filter((each): each is DetailLeaf => 'path' in each),
              ),
            )
          }
        />
      </div>
    </>
  );
}
