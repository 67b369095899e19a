import { useId } from 'react';
import { detailName, oneOfList, type Catalogue, type DetailField, type Question } from '@eager-sieve/core';
import { useKnown } from '../app/use-known';
import { Choice } from '../conditions/lines/inputs';
import { Labelled } from '../ui/labelled';

/** Details as they are being entered; what is empty is left out when they are sent. */
export type EnteredDetails = Readonly<Record<string, unknown>>;

interface DetailsProps {
  /** the key of the type of signal */
  readonly type: string;
  readonly catalogue: Catalogue;
  readonly value: EnteredDetails;
  readonly onChange: (value: EnteredDetails) => void;
}

/** The details of one signal, each as what it is: nobody has to know how they are written. */
export function DetailsForm({ type, catalogue, value, onChange }: DetailsProps) {
  const known = useKnown(catalogue);
  const definition = catalogue.find('signalType', type);
  if (!definition) return null;
  const { fields } = definition.body;
  const context: Context = { catalogue, offers: (path) => known.known.inDetail([definition.id], path).map((each) => each.value) };
  return (
    <div className="flex flex-wrap items-end gap-x-3 gap-y-2">
      {fields.map((field) => (
        <Detail
          key={field.key}
          field={field}
          name={detailName(field, fields)}
          path={field.key}
          whole={value}
          context={context}
          value={value[field.key]}
          onChange={(next) => onChange({ ...value, [field.key]: next })}
        />
      ))}
      {fields.length === 0 && <span className="quiet">It has no details.</span>}
    </div>
  );
}

interface Context {
  readonly catalogue: Catalogue;
  /** what stood there until now */
  readonly offers: (path: string) => readonly string[];
}

interface DetailProps {
  readonly field: DetailField;
  readonly name: string;
  readonly path: string;
  readonly whole: EnteredDetails;
  readonly context: Context;
  readonly value: unknown;
  readonly onChange: (value: unknown) => void;
}

const textOf = (value: unknown): string => (typeof value === 'string' ? value : '');

function Detail(props: DetailProps) {
  const { field, name, value, onChange } = props;
  switch (field.type) {
    case 'list':
      return <Elements {...props} />;
    case 'answers':
      return <AnswersOf {...props} />;
    case 'yes/no':
      return (
        <Labelled label={name}>
          <Choice
            label={name}
            value={value === true ? 'yes' : value === false ? 'no' : ''}
            choices={[
              ['', 'not said'],
              ['yes', 'yes'],
              ['no', 'no'],
            ]}
            onPick={(next) => onChange(next === '' ? undefined : next === 'yes')}
          />
        </Labelled>
      );
    case 'date':
    case 'date-time':
      return (
        <Labelled label={name}>
          <input
            type={field.type === 'date' ? 'date' : 'datetime-local'}
            className="input input-sm w-48"
            value={textOf(value)}
            onChange={(event) => onChange(event.target.value)}
          />
        </Labelled>
      );
    case 'text':
    case 'number':
    case 'money':
      return <Text {...props} />;
  }
}

/** A text with what stood there until now on offer; a form and a message go by their names. */
function Text({ field, name, path, context, value, onChange }: DetailProps) {
  const id = useId();
  const { catalogue } = context;
  const named = path === 'form' ? catalogue.all('form') : path === 'campaign' ? catalogue.all('message') : undefined;
  if (named && named.length > 0)
    return (
      <Labelled label={name}>
        <Choice
          label={name}
          value={textOf(value)}
          choices={[['', 'none'], ...named.map(({ key, name: called }): [string, string] => [key, called])]}
          onPick={onChange}
        />
      </Labelled>
    );
  const offers = field.type === 'text' ? context.offers(path) : [];
  return (
    <Labelled label={name}>
      <input
        className="input input-sm w-40"
        inputMode={field.type === 'text' ? 'text' : 'decimal'}
        list={offers.length > 0 ? id : undefined}
        value={textOf(value)}
        onChange={(event) => onChange(event.target.value)}
      />
      {offers.length > 0 && (
        <datalist id={id}>
          {offers.slice(0, 100).map((each) => (
            <option key={each} value={each} />
          ))}
        </datalist>
      )}
    </Labelled>
  );
}

function Elements({ field, path, context, value, whole, onChange }: DetailProps) {
  const elements = Array.isArray(value) ? (value as readonly EnteredDetails[]) : [];
  const inner = field.of ?? [];
  const one = oneOfList(field, []).replace(/^an? /, '');
  return (
    <fieldset className="flex w-full flex-col gap-1.5">
      {elements.map((element, index) => (
        <div key={index} className="flex flex-wrap items-end gap-x-3 gap-y-1">
          {inner.map((each) => (
            <Detail
              key={each.key}
              field={each}
              name={`${detailName(each, inner)} of ${one} ${index + 1}`}
              path={`${path}.${each.key}`}
              whole={whole}
              context={context}
              value={element[each.key]}
              onChange={(next) => onChange(elements.with(index, { ...element, [each.key]: next }))}
            />
          ))}
          <button type="button" className="btn btn-xs" onClick={() => onChange(elements.toSpliced(index, 1))}>
            Leave out
          </button>
        </div>
      ))}
      <button type="button" className="btn btn-xs self-start" onClick={() => onChange([...elements, {}])}>
        + {one}
      </button>
    </fieldset>
  );
}

/** The questions of the form that is chosen, each with its choices. */
function AnswersOf({ whole, context, value, onChange }: DetailProps) {
  const form = context.catalogue.find('form', textOf(whole['form']));
  const answers = (typeof value === 'object' && value !== null ? value : {}) as EnteredDetails;
  if (!form) return null;
  const put = (question: Question, next: unknown): void => onChange({ ...answers, [question.key]: next });
  return form.body.questions
    .filter(({ type }) => type !== 'hidden')
    .map((question) => (
      <Labelled key={question.key} label={question.label}>
        {question.options && question.type === 'one choice' ? (
          <Choice
            label={question.label}
            value={textOf(answers[question.key])}
            choices={[['', 'no answer'], ...question.options.map(({ key, name }): [string, string] => [key, name])]}
            onPick={(next) => put(question, next)}
          />
        ) : question.options ? (
          <select
            multiple
            className="select h-20 w-44"
            value={Array.isArray(answers[question.key]) ? (answers[question.key] as string[]) : []}
            onChange={(event) =>
              put(
                question,
                [...event.target.selectedOptions].map((option) => option.value),
              )
            }
          >
            {question.options.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        ) : question.type === 'consent' ? (
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-sm block"
            checked={answers[question.key] === true}
            onChange={(event) => put(question, event.target.checked)}
          />
        ) : (
          <input
            className="input input-sm w-44"
            value={textOf(answers[question.key])}
            onChange={(event) => put(question, event.target.value)}
          />
        )}
      </Labelled>
    ));
}

/** What is sent of what was entered: without what is empty. */
export function filled(value: unknown): unknown {
  if (value === '' || value === null || value === undefined) return undefined;
  if (Array.isArray(value)) return value.map(filled).filter((each) => each !== undefined);
  if (typeof value !== 'object') return value;
  return Object.fromEntries(Object.entries(value).flatMap(([key, inner]) => (filled(inner) === undefined ? [] : [[key, filled(inner)]])));
}

/** To begin with: what nearly every signal of the type has. */
export function firstDetails(type: string, catalogue: Catalogue): EnteredDetails {
  const fields = catalogue.find('signalType', type)?.body.fields ?? [];
  const has = (key: string): boolean => fields.some((field) => field.key === key);
  return {
    ...(has('currency') ? { currency: catalogue.workspace.currency } : {}),
    ...(has('items') ? { items: [{}] } : {}),
    ...(has('form') ? { form: catalogue.all('form')[0]?.key ?? '' } : {}),
    ...(has('channel') ? { channel: 'email' } : {}),
  };
}
