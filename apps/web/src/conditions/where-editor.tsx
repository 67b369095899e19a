import {
  dealDetails,
  detailName,
  detailStorage,
  oneOfList,
  type Catalogue,
  type DetailCondition,
  type DetailField,
  type DetailLeaf,
  type KnownValue,
  type Option,
  type SignalTypeId,
  type Value,
} from '@eager-sieve/core';
import { TestEditor } from './test-editor';

interface WhereEditorProps {
  /** the types of signals whose details are asked, or those of deals */
  readonly of: readonly SignalTypeId[] | 'deals';
  readonly where: readonly DetailCondition[];
  readonly catalogue: Catalogue;
  readonly onChange: (where: DetailCondition[]) => void;
  /** what its inputs are called, where a line has several of these */
  readonly name?: string;
}

interface DetailChoice {
  readonly value: string;
  readonly label: string;
  /** an answer to a form: which, since several forms may ask something under the same key */
  readonly form?: string;
}

/** Whether one thing in a list has to answer, or none may. */
type Quantifier = 'some' | 'none';
const QUANTIFIERS: readonly Quantifier[] = ['some', 'none'];
const noneOf = (one: string): string => one.replace(/^an /, 'no ').replace(/^one /, 'none ');

/** The forms that the questions are about: those that are named, or else any. */
function formsAsked(where: readonly DetailCondition[], catalogue: Catalogue) {
  const named = where.flatMap((each) =>
    'path' in each && each.path === 'form' && (each.op === 'is' || each.op === 'is one of') ? [each.value].flat() : [],
  );
  return catalogue.all('form').filter((form) => named.length === 0 || named.includes(form.key));
}

/** What can be asked of a signal's details: its own, those of the things in its lists, and the answers to a form's questions. */
function choices(fields: readonly DetailField[], forms: ReturnType<typeof formsAsked>): readonly DetailChoice[] {
  return fields.flatMap((field): DetailChoice[] => {
    if (field.type === 'list')
      return QUANTIFIERS.flatMap((quantifier) =>
        (field.of ?? []).map((inner) => ({
          value: `${quantifier} ${field.key} ${inner.key}`,
          label: `${detailName(inner, field.of ?? [])} of ${quantifier === 'some' ? oneOfList(field, fields) : noneOf(oneOfList(field, fields))}`,
        })),
      );
    if (field.type !== 'answers') return [{ value: field.key, label: detailName(field, fields) }];
    const questions = forms.flatMap((form) => form.body.questions.map((question) => ({ question, form })));
    return questions.flatMap(({ question, form }): DetailChoice[] => {
      const answers = `to “${question.label}” (${form.name})`;
      if (question.type !== 'several choices') return [{ value: `answers.${question.key}`, label: `answer ${answers}`, form: form.key }];
      return [
        { value: `some answers.${question.key} value`, label: `answer ${answers}`, form: form.key },
        { value: `none answers.${question.key} value`, label: `none of the answers ${answers}`, form: form.key },
      ];
    });
  });
}

/** A choice taken apart: a detail of the signal, or a part of the things in one of its lists. */
function partsOf(choice: string): { readonly quantifier?: Quantifier; readonly path: string; readonly inner?: string } {
  const [first = '', path, inner] = choice.split(' ');
  return path === undefined ? { path: first } : { quantifier: first as Quantifier, path, inner: inner ?? '' };
}

const valueOf = (condition: DetailCondition): string => {
  if ('path' in condition) return condition.path;
  const inner = condition.of[0]?.path ?? '';
  return 'some' in condition ? `some ${condition.some} ${inner}` : `none ${condition.none} ${inner}`;
};
/** The questions of a condition: one, or several of the same thing in a list. */
const leavesOf = (condition: DetailCondition): readonly DetailLeaf[] => ('path' in condition ? [condition] : condition.of);

/** What is asked, with its first question about what was chosen, and what else is asked of the same thing in a list. */
function made(choice: string, first: Omit<DetailLeaf, 'path'>, more: readonly DetailLeaf[] = []): DetailCondition {
  const { quantifier, path, inner } = partsOf(choice);
  if (quantifier === undefined || inner === undefined) return { path, ...first };
  const of = [{ path: inner, ...first }, ...more];
  return quantifier === 'some' ? { some: path, of } : { none: path, of };
}

/** What there is to choose from where a detail names something that is known here, so that a person picks instead of typing a key. */
function optionsOf(choice: string, catalogue: Catalogue, forms: ReturnType<typeof formsAsked>): readonly Option[] | undefined {
  if (choice === 'form') return catalogue.all('form');
  if (choice === 'campaign') return catalogue.all('message');
  if (choice === 'link')
    return catalogue
      .all('message')
      .flatMap((message) => message.body.links.map((link) => ({ key: link.key, name: `${link.label} (${message.name})` })));
  if (choice === 'channel') return ['email', 'text', 'chat'].map((key) => ({ key, name: key }));
  const { path } = partsOf(choice);
  if (!path.startsWith('answers.')) return undefined;
  return forms.flatMap((form) => form.body.questions).find((each) => `answers.${each.key}` === path)?.options;
}

/** Operators that compare with whole values, which can be picked from a list. */
const PICKED = new Set(['is', 'is not', 'is one of', 'is not one of']);

/** A detail is first asked whether it is one of the things known here, or else whether it is there at all. */
function firstQuestion(choice: string, catalogue: Catalogue, forms: ReturnType<typeof formsAsked>): DetailCondition {
  const known = optionsOf(choice, catalogue, forms)?.[0];
  return made(choice, known ? { op: 'is', value: known.key } : { op: 'is filled' });
}

/** The choices, and what is asked for now where it is none of them. */
function withKnown(options: readonly Option[], value: Value | undefined): readonly Option[] {
  const asked = [value].flat().filter((one): one is string => typeof one === 'string' && !options.some((option) => option.key === one));
  return [...options, ...asked.map((key) => ({ key, name: key }))];
}

/** A question without its value where it takes none. */
const asked = (op: string, value: Value | undefined): Omit<DetailLeaf, 'path'> => (value === undefined ? { op } : { op, value });

/** The questions about a signal's details, one row each; what else is asked of the same thing in a list stands under the first. */
export function WhereEditor({ of, where, catalogue, onChange, name = 'detail' }: WhereEditorProps) {
  const fields = of === 'deals' ? dealDetails(catalogue) : catalogue.detailsOf(of);
  const forms = formsAsked(where, catalogue);
  const available = choices(fields, forms);
  if (available.length === 0) return null;
  /** An answer belongs to its form: where none is named yet, that is asked with it. */
  const withForm = (next: DetailCondition[], form: string | undefined): DetailCondition[] =>
    form === undefined || forms.length <= 1 || next.some((each) => 'path' in each && each.path === 'form')
      ? next
      : [{ path: 'form', op: 'is', value: form }, ...next];
  return (
    <div className="flex flex-col gap-1.5">
      {where.map((condition, index) => (
        <Question
          key={index}
          lead={index === 0 ? 'where' : 'and'}
          condition={condition}
          fields={fields}
          knownOf={(path) => (of === 'deals' ? [] : catalogue.known.inDetail(of, path))}
          available={available}
          name={name}
          catalogue={catalogue}
          forms={forms}
          onPick={({ value, form }) =>
            onChange(
              withForm(
                where.with(index, firstQuestion(value, catalogue, form === undefined ? forms : forms.filter((each) => each.key === form))),
                form,
              ),
            )
          }
          onChange={(next) => onChange(next ? where.with(index, next) : where.toSpliced(index, 1))}
        />
      ))}
      <div>
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => onChange([...where, firstQuestion(available[0]?.value ?? '', catalogue, forms)])}
        >
          + {name}
        </button>
      </div>
    </div>
  );
}

interface QuestionProps {
  readonly lead: string;
  readonly condition: DetailCondition;
  readonly fields: readonly DetailField[];
  readonly knownOf: (path: string) => readonly KnownValue[];
  readonly available: readonly DetailChoice[];
  readonly catalogue: Catalogue;
  readonly name: string;
  readonly forms: ReturnType<typeof formsAsked>;
  readonly onPick: (choice: DetailChoice) => void;
  /** undefined takes it away */
  readonly onChange: (condition: DetailCondition | undefined) => void;
}

/** A choice as the list of choices names it: two forms may ask under the same key. */
const nameOf = ({ value, form }: DetailChoice): string => (form === undefined ? value : `${value} @ ${form}`);

function Question({ lead, condition, fields, knownOf, available, catalogue, name, forms, onPick, onChange }: QuestionProps) {
  const choice = valueOf(condition);
  const { quantifier, path, inner } = partsOf(choice);
  const [first, ...more] = leavesOf(condition);
  if (!first) return null;
  const things = quantifier === undefined ? [] : (fields.find((field) => field.key === path)?.of ?? []);
  const options = optionsOf(choice, catalogue, forms);
  const shown = available.find((each) => each.value === choice);
  const picking = options !== undefined && options.length > 0 && PICKED.has(first.op);
  const storage = inner === undefined ? detailStorage(fields, path) : detailStorage(things, inner);
  return (
    <>
      <div className="group flex flex-wrap items-center gap-2">
        <span className="quiet">{lead}</span>
        <select
          className="select select-sm w-auto max-w-72"
          aria-label={name}
          value={shown ? nameOf(shown) : choice}
          onChange={(event) => {
            const picked = available.find((each) => nameOf(each) === event.target.value);
            if (picked) onPick(picked);
          }}
        >
          {!shown && <option value={choice}>{choice}</option>}
          {available.map((each) => (
            <option key={nameOf(each)} value={nameOf(each)}>
              {each.label}
            </option>
          ))}
        </select>
        <TestEditor
          storage={picking ? 'choice' : storage}
          options={picking ? withKnown(options, first.value) : undefined}
          known={knownOf(inner === undefined ? path : `${path}.${inner}`)}
          op={first.op}
          value={first.value as Value | undefined}
          label={name}
          onChange={(op, value) => onChange(made(choice, asked(op, value), more))}
        />
        {things.length > 1 && (
          <button
            type="button"
            className="row-tool"
            onClick={() => onChange(made(choice, first, [...more, { path: things[0]?.key ?? '', op: 'is filled' }]))}
          >
            + of the same
          </button>
        )}
        <button type="button" className="row-tool" aria-label={`Remove this ${name}`} onClick={() => onChange(undefined)}>
          remove
        </button>
      </div>
      {more.map((leaf, index) => (
        <OfTheSame
          key={index}
          leaf={leaf}
          things={things}
          name={name}
          onChange={(next) => onChange(made(choice, first, next ? more.with(index, next) : more.toSpliced(index, 1)))}
        />
      ))}
    </>
  );
}

/** A further question of the very thing in a list that the row above asks about. */
function OfTheSame({
  leaf,
  things,
  name,
  onChange,
}: {
  leaf: DetailLeaf;
  things: readonly DetailField[];
  name: string;
  onChange: (leaf: DetailLeaf | undefined) => void;
}) {
  return (
    <div className="group flex flex-wrap items-center gap-2 pl-14">
      <span className="quiet">and its</span>
      <select
        className="select select-sm w-auto"
        aria-label={`${name} of the same`}
        value={leaf.path}
        onChange={(event) => onChange({ path: event.target.value, op: 'is filled' })}
      >
        {!things.some((each) => each.key === leaf.path) && <option>{leaf.path}</option>}
        {things.map((each) => (
          <option key={each.key} value={each.key}>
            {detailName(each, things)}
          </option>
        ))}
      </select>
      <TestEditor
        storage={detailStorage(things, leaf.path)}
        op={leaf.op}
        value={leaf.value as Value | undefined}
        label={`${name} of the same`}
        onChange={(op, value) => onChange({ path: leaf.path, ...asked(op, value) })}
      />
      <button type="button" className="row-tool" aria-label={`Remove this ${name} of the same`} onClick={() => onChange(undefined)}>
        remove
      </button>
    </div>
  );
}
