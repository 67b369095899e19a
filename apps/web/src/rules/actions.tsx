import { actionWords, type Catalogue, type RuleAction, type RuleSubject } from '@eager-sieve/core';
import { useState, type KeyboardEvent } from 'react';
import { Choice } from '../conditions/lines/inputs';
import { MakeMissing } from '../conditions/make-missing';
import { FaultsAt } from '../ui/faults-at';
import { ActionParts, begun, doWords, kindsFor, type Do } from './action-editors';

interface ActionsProps {
  readonly actions: readonly RuleAction[];
  readonly catalogue: Catalogue;
  readonly onChange: (actions: RuleAction[]) => void;
  /** of whom the rule is */
  readonly of?: RuleSubject;
  /** whether there may be none */
  readonly mayBeEmpty?: boolean;
  /** bundles run no bundles */
  readonly inBundle?: boolean;
}

/** What a rule does, in order. Alt+↑ and Alt+↓ move an action. */
export function Actions({ actions, catalogue, onChange, of = 'contact', inBundle = false, mayBeEmpty = false }: ActionsProps) {
  const kinds = kindsFor(catalogue, of).filter((kind) => !(inBundle && kind === 'run bundle'));
  return (
    <ol className="spoken flex flex-col gap-1">
      {actions.map((action, index) => {
        const put = (next: RuleAction): void => onChange(actions.with(index, next));
        const move = (to: number): void => {
          if (to < 0 || to >= actions.length) return;
          onChange(actions.toSpliced(index, 1).toSpliced(to, 0, action));
        };
        const pressed = (event: KeyboardEvent): void => {
          if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
          event.preventDefault();
          move(event.key === 'ArrowUp' ? index - 1 : index + 1);
        };
        return (
          <li
            key={index}
            className="group flex min-h-7 flex-wrap items-baseline gap-x-2 gap-y-1"
            aria-label={actionWords(action, catalogue, of)}
            onKeyDown={pressed}
          >
            <span className="quiet w-4">{index + 1}</span>
            <ActionEditor action={action} name={`action ${index + 1}`} kinds={kinds} of={of} catalogue={catalogue} onChange={put} />
            <FaultsAt path={['then', index]} />
            {(actions.length > 1 || mayBeEmpty) && (
              <span className="ml-auto flex gap-2">
                {index > 0 && (
                  <button type="button" className="row-tool" onClick={() => move(index - 1)}>
                    earlier
                  </button>
                )}
                {index < actions.length - 1 && (
                  <button type="button" className="row-tool" onClick={() => move(index + 1)}>
                    later
                  </button>
                )}
                <button type="button" className="row-tool" onClick={() => onChange(actions.toSpliced(index, 1))}>
                  remove
                </button>
              </span>
            )}
          </li>
        );
      })}
      <li>
        <button
          type="button"
          className="btn btn-xs ml-6"
          onClick={() => onChange([...actions, begun(kinds[0] ?? 'notify', catalogue, of) ?? (actions[0] as RuleAction)])}
        >
          + action
        </button>
      </li>
    </ol>
  );
}

const NEW_TAG = 'new tag';

export function ActionEditor({
  action,
  name,
  kinds,
  of = 'contact',
  catalogue,
  onChange,
}: {
  action: RuleAction;
  name: string;
  kinds: readonly Do[];
  of?: RuleSubject;
  catalogue: Catalogue;
  onChange: (action: RuleAction) => void;
}) {
  const [isMaking, setMaking] = useState(false);
  const choices = kinds.map((kind) => [kind as string, doWords(kind, of)] as const);
  return (
    <>
      <Choice
        label={`What ${name} does`}
        value={action.do}
        choices={of === 'contact' ? [...choices, [NEW_TAG, 'add a new tag …']] : choices}
        onPick={(kind) => {
          if (kind === NEW_TAG) return setMaking(true);
          const next = begun(kind as Do, catalogue, of);
          if (next) onChange(next);
        }}
      />
      <MakeMissing
        kind={isMaking ? 'tag' : undefined}
        name=""
        catalogue={catalogue}
        of="contact"
        onMade={(made) => made.kind === 'tag' && onChange({ do: 'add tag', tag: made.tag })}
        onClose={() => setMaking(false)}
      />
      <ActionParts action={action} name={name} of={of} catalogue={catalogue} onChange={onChange} />
    </>
  );
}
