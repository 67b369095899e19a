import {
  choicesOf,
  COMPARISONS,
  numbersOf,
  pathWords,
  type LeafOf,
  type Measure,
  type NumberOp,
  type Value,
  type Catalogue,
} from '@eager-sieve/core';
import { Checks, Choice, WindowInput } from './inputs';
import { withPart, type LineProps } from './line';
import { TestEditor } from '../test-editor';
import { WhereEditor } from '../where-editor';

export function ScoreLine({ leaf, onChange }: LineProps<'score'>) {
  return (
    <TestEditor
      storage="number"
      op={leaf.op}
      value={leaf.value as Value}
      label="points"
      onChange={(op, value) => op !== 'is empty' && op !== 'is filled' && onChange({ ...leaf, op: op as NumberOp, value: value as number })}
    />
  );
}

export function BandLine({ leaf, catalogue, onChange }: LineProps<'band'>) {
  const bands = catalogue.body('scorecard', leaf.scorecard)?.bands ?? [];
  const chosen = [leaf.value].flat();
  const negative = leaf.op === 'is not' || leaf.op === 'is not one of';
  const one = chosen.length === 1;
  const opOf = (not: boolean, single: boolean): LeafOf<'band'>['op'] =>
    single && leaf.since !== undefined && !not ? 'is' : not ? 'is not one of' : 'is one of';
  return (
    <>
      <Choice
        label="is or is not"
        value={negative ? 'is not one of' : 'is one of'}
        choices={[
          ['is one of', 'is one of'],
          ['is not one of', 'is not one of'],
        ]}
        onPick={(op) => onChange({ kind: 'band', scorecard: leaf.scorecard, op: op as 'is one of', value: chosen })}
      />
      <Checks
        label="bands"
        chosen={chosen}
        choices={bands.map((band) => ({ key: band.key, name: band.name, note: `from ${band.from}` }))}
        onChange={(value) => onChange({ kind: 'band', scorecard: leaf.scorecard, op: opOf(negative, false), value })}
      />
      {one && !negative && (
        <WindowInput
          label="since"
          words="since whenever"
          value={leaf.since}
          onChange={(since) =>
            onChange(
              since === 'ever'
                ? { kind: 'band', scorecard: leaf.scorecard, op: 'is one of', value: chosen }
                : { kind: 'band', scorecard: leaf.scorecard, op: 'is', value: chosen[0] ?? '', since },
            )
          }
        />
      )}
    </>
  );
}

export function AudienceLine({ leaf, onChange }: LineProps<'audience'>) {
  return (
    <>
      <Choice
        label="in or not"
        value={leaf.op}
        choices={[
          ['in', 'they are in it'],
          ['out', 'they are not in it'],
          ['left', 'they left it'],
        ]}
        onPick={(op) => onChange(withPart({ ...leaf, op: op as 'in' }, 'since', op === 'out' ? undefined : leaf.since))}
      />
      {leaf.op !== 'out' && (
        <WindowInput
          label="since"
          words={leaf.op === 'in' ? 'since whenever' : 'whenever'}
          value={leaf.since}
          onChange={(since) => onChange(withPart(leaf, 'since', since))}
        />
      )}
    </>
  );
}

const COMPARED = COMPARISONS.map(([op, words]) => [op, `is ${words}`] as const);

/** One number of the contact against another. */
export function CompareLine({ leaf, catalogue, onChange }: LineProps<'compare'>) {
  return (
    <>
      <MeasureInput label="what is compared" value={leaf.left} catalogue={catalogue} onChange={(left) => onChange({ ...leaf, left })} />
      <Choice label="how they compare" value={leaf.op} choices={COMPARED} onPick={(op) => onChange({ ...leaf, op: op as '>' })} />
      <input
        className="input input-sm w-20"
        type="number"
        step="any"
        aria-label="times"
        value={Number(leaf.times ?? 1)}
        onChange={(event) => {
          const times = Number(event.target.value);
          if (event.target.value !== '') onChange(withPart(leaf, 'times', times === 1 ? undefined : times));
        }}
      />
      <span className="quiet">times</span>
      <MeasureInput label="with what" value={leaf.right} catalogue={catalogue} onChange={(right) => onChange({ ...leaf, right })} />
    </>
  );
}

const DIRECTIONS = [
  ['from them', 'did anything'],
  ['from us', 'heard from us'],
] as const;

type SignalMeasure = Extract<Measure, { type: unknown }>;

/** What can be measured, each as a text that stands for it. */
function measureChoices(catalogue: Catalogue): readonly (readonly [string, string])[] {
  const numbers = catalogue.all('field').filter((field) => ['number', 'money'].includes(field.body.type) && field.body.of !== 'deal');
  const types = catalogue.all('signalType');
  return [
    ...numbers.map((field) => [`field ${field.id}`, field.body.of === 'company' ? `company's ${field.name}` : field.name] as const),
    ...catalogue.all('scorecard').map((card) => [`card ${card.id}`, `${card.name}: points`] as const),
    ...DIRECTIONS.flatMap(([direction, verb]) => [
      [`type ${direction}`, `how often: ${verb}`] as const,
      [`days ${direction}`, `on how many days: ${verb}`] as const,
    ]),
    ...types.map((type) => [`type ${type.id}`, `how often: ${type.body.verb}`] as const),
    ...types.map((type) => [`days ${type.id}`, `on how many days: ${type.body.verb}`] as const),
    ...types.flatMap((type) =>
      numbersOf(type.body.fields).map(
        (path) => [`sum ${type.id} ${path}`, `total ${pathWords(path, type.body.fields)}: ${type.body.verb}`] as const,
      ),
    ),
  ];
}

/** The text that stands for a measure. */
function measureChoice(value: Measure): string {
  if ('field' in value) return `field ${value.field}`;
  if ('scorecard' in value) return `card ${value.scorecard}`;
  const type = [value.type].flat()[0] ?? '';
  if (value.days) return `days ${type}`;
  return value.sum ? `sum ${type} ${value.sum.path}` : `type ${type}`;
}

/** The measure that a text stands for, over the same time as the one before. */
function measureOf(choice: string, before: SignalMeasure | undefined, catalogue: Catalogue): Measure {
  const [kind, id, path = ''] = choice.split(' ');
  const of = id === 'from' ? (`from ${path}` as 'from them') : Number(id);
  const within = before?.within ? { within: before.within } : {};
  if (kind === 'field') {
    const owner = catalogue.body('field', Number(id))?.of;
    return owner === 'company' ? { field: Number(id), of: owner } : { field: Number(id) };
  }
  if (kind === 'card') return { scorecard: Number(id) };
  if (kind === 'days') return { type: of, days: true, ...within };
  return kind === 'sum' ? { type: Number(id), sum: { path }, ...within } : { type: of, ...within };
}

function MeasureInput({
  label,
  value,
  catalogue,
  onChange,
}: {
  label: string;
  value: Measure;
  catalogue: Catalogue;
  onChange: (measure: Measure) => void;
}) {
  const signal = 'type' in value ? value : undefined;
  return (
    <>
      <Choice
        label={label}
        value={measureChoice(value)}
        choices={measureChoices(catalogue)}
        onPick={(choice) => onChange(measureOf(choice, signal, catalogue))}
      />
      {signal && (
        <WindowInput
          label={`${label}: when`}
          words="ever"
          value={signal.within}
          onChange={(within) => {
            const { within: _within, ...rest } = signal;
            onChange(within === 'ever' ? rest : { ...rest, within });
          }}
        />
      )}
      {signal && (
        <div className="basis-full">
          <WhereEditor
            name={`detail of ${label}`}
            of={catalogue.signalTypes(signal.type)}
            where={signal.where ?? []}
            catalogue={catalogue}
            onChange={(where) => {
              const { where: _where, ...rest } = signal;
              onChange(where.length > 0 ? { ...rest, where } : rest);
            }}
          />
        </div>
      )}
    </>
  );
}

/** Something about the contact changed, from → to. */
export function ChangeLine({ leaf, catalogue, onChange }: LineProps<'change'>) {
  const choices = changeChoices(leaf, catalogue);
  return (
    <>
      <span className="quiet">changed</span>
      {(['from', 'to'] as const).map((side) => (
        <span key={side} className="inline-flex flex-wrap items-center gap-2">
          <Choice
            label={side}
            value={leaf[side] ? 'these' : 'any'}
            choices={[
              ['any', `${side} anything`],
              ['these', `${side} …`],
            ]}
            onPick={(kind) => onChange(withPart(leaf, side, kind === 'any' ? undefined : [choices[0]?.key ?? null]))}
          />
          {leaf[side] &&
            (choices.length > 0 ? (
              <Checks
                label={`${side}: which`}
                chosen={leaf[side].map((value) => String(value ?? ''))}
                choices={[{ key: '', name: 'nothing' }, ...choices.map((choice) => ({ key: String(choice.key), name: choice.name }))]}
                onChange={(keys) =>
                  onChange({ ...leaf, [side]: keys.map((key) => (key === '' ? null : leaf.what === 'stage' ? Number(key) : key)) })
                }
              />
            ) : (
              <input
                className="input input-sm w-48"
                aria-label={`${side}: which, parted by commas`}
                defaultValue={leaf[side].map((value) => value ?? 'nothing').join(', ')}
                onBlur={(event) => {
                  const typed = event.target.value
                    .split(',')
                    .map((each) => each.trim())
                    .filter(Boolean)
                    .map((each) => (each === 'nothing' ? null : each));
                  onChange(withPart(leaf, side, typed));
                }}
              />
            ))}
        </span>
      ))}
      <WindowInput label="when" words="ever" value={leaf.within} onChange={(within) => onChange(withPart(leaf, 'within', within))} />
    </>
  );
}

/** What a change can be from or to, where there is a list to pick from. */
function changeChoices(
  leaf: LeafOf<'change'>,
  catalogue: LineProps<'change'>['catalogue'],
): readonly { key: string | number; name: string }[] {
  if (leaf.what === 'stage') return catalogue.ladder().map((stage) => ({ key: stage.id, name: stage.name }));
  if (leaf.what === 'band') return catalogue.body('scorecard', leaf.key ?? -1)?.bands ?? [];
  return leaf.what === 'field' ? choicesOf(catalogue.body('field', leaf.key ?? -1) ?? {}) : [];
}
