import {
  detailStorage,
  operatorNames,
  type Catalogue,
  type DetailCondition,
  type DetailField,
  type DetailLeaf,
  type Option,
  type Value,
} from '@eager-sieve/core';
import { firstValue } from './subjects';
import { TestEditor } from './test-editor';

interface WhereEditorProps {
  /** the details that can be asked of */
  readonly fields: readonly DetailField[];
  readonly where: readonly DetailCondition[];
  readonly catalogue: Catalogue;
  readonly onChange: (where: DetailCondition[]) => void;
}

interface DetailChoice {
  readonly value: string;
  readonly label: string;
}

/** What can be asked of a signal's details: its own, those of the things in its lists, and the answers to a form's questions. */
function choices(fields: readonly DetailField[], catalogue: Catalogue): readonly DetailChoice[] {
  return fields.flatMap((field): DetailChoice[] => {
    if (field.type === 'list')
      return (field.of ?? []).map((inner) => ({ value: `${field.key} ${inner.key}`, label: `one of the ${field.key}: ${inner.key}` }));
    if (field.type !== 'answers') return [{ value: field.key, label: field.key }];
    const questions = new Map(
      catalogue.all('form').flatMap((form) => form.body.questions.map((question) => [question.key, { question, form }] as const)),
    );
    return [...questions.values()].map(({ question, form }) => ({
      value: question.type === 'several choices' ? `answers.${question.key} value` : `answers.${question.key}`,
      label: `answer to “${question.label}” (${form.name})`,
    }));
  });
}

const valueOf = (condition: DetailCondition): string => {
  if ('path' in condition) return condition.path;
  return `${'some' in condition ? condition.some : condition.none} ${condition.of[0]?.path ?? ''}`;
};
const leafOf = (condition: DetailCondition): DetailLeaf | undefined => ('path' in condition ? condition : condition.of[0]);

function made(choice: string, leaf: Omit<DetailLeaf, 'path'>): DetailCondition {
  const [path = '', inner] = choice.split(' ');
  return inner === undefined ? { path, ...leaf } : { some: path, of: [{ path: inner, ...leaf }] };
}

/** What there is to choose from where a detail names something that is known here, so that a person picks instead of typing a key. */
function optionsOf(choice: string, catalogue: Catalogue): readonly Option[] | undefined {
  if (choice === 'form') return catalogue.all('form');
  if (choice === 'campaign') return catalogue.all('message');
  if (choice === 'link')
    return catalogue
      .all('message')
      .flatMap((message) => message.body.links.map((link) => ({ key: link.key, name: `${link.label} (${message.name})` })));
  if (choice === 'channel') return ['email', 'text', 'chat'].map((key) => ({ key, name: key }));
  const question = choice.split(' ')[0]?.replace(/^answers\./, '');
  if (!choice.startsWith('answers.')) return undefined;
  return catalogue
    .all('form')
    .flatMap((form) => form.body.questions)
    .find((each) => each.key === question)?.options;
}

/** Operators that compare with whole values, which can be picked from a list. */
const PICKED = new Set(['is', 'is not', 'is one of', 'is not one of']);

/** A detail is first asked whether it is one of the things known here, or else whether it is there at all. */
function firstQuestion(choice: string, catalogue: Catalogue): DetailCondition {
  const known = optionsOf(choice, catalogue)?.[0];
  return made(choice, known ? { op: 'is', value: known.key } : { op: 'is filled' });
}

/** The choices, and what is asked for now where it is none of them. */
function withKnown(options: readonly Option[], value: Value | undefined): readonly Option[] {
  const asked = [value].flat().filter((one): one is string => typeof one === 'string' && !options.some((option) => option.key === one));
  return [...options, ...asked.map((key) => ({ key, name: key }))];
}

/** The questions about a signal's details, one row each. */
export function WhereEditor({ fields, where, catalogue, onChange }: WhereEditorProps) {
  const available = choices(fields, catalogue);
  if (available.length === 0) return null;
  return (
    <div className="flex flex-col gap-1.5">
      {where.map((condition, index) => {
        const choice = valueOf(condition);
        const leaf = leafOf(condition);
        const list = fields.find((field) => field.key === choice.split(' ')[0]);
        const storage = choice.includes(' ') ? detailStorage(list?.of ?? [], choice.split(' ')[1] ?? '') : detailStorage(fields, choice);
        const options = optionsOf(choice, catalogue);
        const picking = options !== undefined && options.length > 0 && leaf !== undefined && PICKED.has(leaf.op);
        const change = (next: DetailCondition): void => onChange(where.with(index, next));
        return (
          <div key={index} className="flex flex-wrap items-center gap-2">
            <span className="quiet w-12">{index === 0 ? 'where' : 'and'}</span>
            <select
              className="field max-w-72"
              aria-label="detail"
              value={choice}
              onChange={(event) => change(firstQuestion(event.target.value, catalogue))}
            >
              {!available.some((each) => each.value === choice) && <option value={choice}>{choice}</option>}
              {available.map((each) => (
                <option key={each.value} value={each.value}>
                  {each.label}
                </option>
              ))}
            </select>
            {leaf && !('of' in condition && condition.of.length > 1) ? (
              <TestEditor
                storage={picking ? 'choice' : storage}
                options={picking ? withKnown(options, leaf.value) : undefined}
                op={leaf.op}
                value={leaf.value as Value | undefined}
                label="detail"
                onChange={(op, value) => change(made(choice, value === undefined ? { op } : { op, value }))}
              />
            ) : (
              <span className="quiet">several questions at once: type this line to change them</span>
            )}
            <button
              type="button"
              className="act act-small"
              aria-label="Remove this detail"
              onClick={() => onChange(where.toSpliced(index, 1))}
            >
              Remove
            </button>
          </div>
        );
      })}
      <div>
        <button
          type="button"
          className="act act-small"
          onClick={() => {
            const first = available[0]?.value ?? '';
            const storage = first.includes(' ') ? 'text' : detailStorage(fields, first);
            const op = operatorNames(storage)[0] ?? 'is filled';
            onChange([...where, made(first, { op, value: firstValue(storage, op) as Value })]);
          }}
        >
          + detail
        </button>
      </div>
    </div>
  );
}
