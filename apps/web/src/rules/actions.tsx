import { storageOf, type Catalogue, type RuleAction } from '@eager-sieve/core';
import { Choice } from '../conditions/line-editor';

interface ActionsProps {
  readonly actions: readonly RuleAction[];
  readonly catalogue: Catalogue;
  readonly onChange: (actions: RuleAction[]) => void;
}

/** What a rule does, in order. */
export function Actions({ actions, catalogue, onChange }: ActionsProps) {
  const tags = catalogue.all('tag');
  const fields = catalogue.all('field').filter((field) => field.key !== 'email' && field.key !== 'added');
  const made = (kind: string): RuleAction | undefined => {
    const [tag, field] = [tags[0], fields[0]];
    if (kind === 'add tag' || kind === 'remove tag') return tag && { do: kind, tag: tag.id };
    if (kind === 'set field') return field && { do: 'set field', field: field.id, value: '' };
    return field && { do: 'clear field', field: field.id };
  };
  return (
    <ol className="flex flex-col gap-1.5">
      {actions.map((action, index) => {
        const put = (next: RuleAction | undefined): void => next && onChange(actions.with(index, next));
        return (
          <li key={index} className="flex flex-wrap items-center gap-2">
            <span className="quiet w-4">{index + 1}</span>
            <Choice
              label={`Action ${index + 1}`}
              value={action.do}
              choices={(['add tag', 'remove tag', 'set field', 'clear field'] as const).map((kind) => [kind, kind])}
              onPick={(kind) => put(made(kind))}
            />
            {'tag' in action ? (
              <Choice
                label={`Tag of action ${index + 1}`}
                value={String(action.tag)}
                choices={tags.map((tag) => [String(tag.id), tag.key])}
                onPick={(id) => put({ ...action, tag: Number(id) })}
              />
            ) : (
              <Choice
                label={`Field of action ${index + 1}`}
                value={String(action.field)}
                choices={fields.map((field) => [String(field.id), field.name])}
                onPick={(id) =>
                  put(action.do === 'set field' ? { do: 'set field', field: Number(id), value: '' } : { ...action, field: Number(id) })
                }
              />
            )}
            {action.do === 'set field' && <ValueOf action={action} catalogue={catalogue} onChange={(value) => put({ ...action, value })} />}
            {actions.length > 1 && (
              <button type="button" className="act act-small" onClick={() => onChange(actions.toSpliced(index, 1))}>
                Remove
              </button>
            )}
          </li>
        );
      })}
      <li>
        <button
          type="button"
          className="act act-small ml-6"
          onClick={() => onChange([...actions, made('add tag') ?? (actions[0] as RuleAction)])}
        >
          + action
        </button>
      </li>
    </ol>
  );
}

function ValueOf({
  action,
  catalogue,
  onChange,
}: {
  action: Extract<RuleAction, { do: 'set field' }>;
  catalogue: Catalogue;
  onChange: (value: string) => void;
}) {
  const body = catalogue.body('field', action.field);
  const value = String(action.value);
  if (body?.options) {
    return (
      <Choice
        label="Value"
        value={value}
        choices={[['', 'choose'], ...body.options.map((option) => [option.key, option.name] as const)]}
        onPick={onChange}
      />
    );
  }
  if (body && storageOf[body.type] === 'yesNo')
    return (
      <Choice
        label="Value"
        value={value}
        choices={[
          ['', 'choose'],
          ['yes', 'yes'],
          ['no', 'no'],
        ]}
        onPick={onChange}
      />
    );
  return <input className="field w-52" aria-label="Value" value={value} onChange={(event) => onChange(event.target.value)} />;
}
