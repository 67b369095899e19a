import { ownFields } from '@eager-sieve/core';
import { type ContactView, type Duplicates } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { Dialog } from '../ui/dialog';
import { Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';

/** Two contacts that may be one person. */
export type Pair = Duplicates['pairs'][number];

interface MergeTwoProps {
  readonly pair: Pair;
  /** what they have in common, in words */
  readonly words: string;
  readonly onClose: () => void;
}

/** Two contacts side by side, with what of each is to stand, and the way to make them one. */
export function MergeTwo({ pair, words, onClose }: MergeTwoProps) {
  const [a, b] = pair.contacts;
  const first = api.useContactQuery({ id: a?.id ?? '' });
  const second = api.useContactQuery({ id: b?.id ?? '' });
  const error = first.error ?? second.error;
  return (
    <Dialog open wide title={`${a?.name ?? ''}: one person or two? They have ${words}.`} onClose={onClose}>
      {error ? (
        <Wrong error={error} again={() => void (first.refetch(), second.refetch())} />
      ) : first.data && second.data ? (
        <Compared contacts={[first.data, second.data]} onClose={onClose} />
      ) : (
        <Loading />
      )}
    </Dialog>
  );
}

type Two = readonly [ContactView, ContactView];
type Side = 0 | 1;
const SIDES: readonly Side[] = [0, 1];

interface Fact {
  readonly key: string;
  readonly name: string;
  /** as it is shown of either */
  readonly shown: readonly (string | undefined)[];
  readonly values: readonly unknown[];
}

/** What is known of either, those that differ first. */
function factsOf(contacts: Two): readonly Fact[] {
  const names = new Map(contacts.flatMap(({ fields }) => fields.map(({ key, name }) => [key, name] as const)));
  const facts = [...names].flatMap(([key, name]): Fact[] => {
    if (ownFields.includes(key)) return [];
    const both = contacts.map(({ fields }) => fields.find((field) => field.key === key));
    return [{ key, name, shown: both.map((each) => each?.shown), values: both.map((each) => each?.value) }];
  });
  return [...facts.filter(isContested), ...facts.filter((fact) => !isContested(fact))];
}
const isContested = ({ shown: [a, b] }: Fact): boolean => a !== undefined && b !== undefined && a !== b;

/** Merges one into the other, and then sets what was chosen of the one that goes. */
function useMerge(onDone: () => void) {
  const [merge, merging] = api.useMergeContactMutation();
  const [part] = api.usePartContactMutation();
  const [put, putting] = api.usePutContactsMutation();
  const [wrong, setWrong] = useState<string>();
  const dispatch = useAppDispatch();
  const run = async (into: ContactView, other: ContactView, taken: Readonly<Record<string, unknown>>): Promise<void> => {
    setWrong(undefined);
    const merged = await merge({ id: into.id, body: { other: other.id } });
    if (merged.error) return setWrong(errorMessage(merged.error));
    if (Object.keys(taken).length > 0) {
      const set = await put({ body: { matchBy: 'id', contacts: [{ id: into.id, fields: taken }] } });
      const fault = set.data?.results[0]?.faults?.[0];
      if (set.error || fault)
        return setWrong(
          `They are one now. What was chosen of the other was not taken: ${fault ? `needs ${fault.expected}` : errorMessage(set.error)}`,
        );
    }
    const { merge: id } = merged.data;
    dispatch(told({ kind: 'done', text: `${other.name} is merged into ${into.name}.`, undo: () => part({ id }) }));
    onDone();
  };
  return { run, wrong, isBusy: merging.isLoading || putting.isLoading };
}

function Compared({ contacts, onClose }: { contacts: Two; onClose: () => void }) {
  const [kept, setKept] = useState<Side>(0);
  const [chosen, setChosen] = useState<Readonly<Record<string, Side>>>({});
  const { run, wrong, isBusy } = useMerge(onClose);
  const other: Side = kept === 0 ? 1 : 0;
  const facts = factsOf(contacts);
  const sideOf = ({ key }: Fact): Side => chosen[key] ?? kept;
  const taken = facts.filter((fact) => isContested(fact) && sideOf(fact) === other);
  return (
    <>
      <div className="max-h-[56vh] overflow-y-auto" tabIndex={0} role="group" aria-label="Side by side">
        <table className="table">
          <thead className="text-base-content">
            <tr className="text-left">
              <th />
              {SIDES.map((side) => (
                <Who key={side} contact={contacts[side]} stays={kept === side} onPick={() => (setKept(side), setChosen({}))} />
              ))}
            </tr>
          </thead>
          <tbody>
            {facts.map((fact) => (
              <FactRow key={fact.key} fact={fact} side={sideOf(fact)} onPick={(side) => setChosen({ ...chosen, [fact.key]: side })} />
            ))}
            <Sums title="tags" of={contacts.map(({ tags }) => tags.map(({ key }) => key).join(', '))} />
            <Sums title="stage" of={contacts.map(({ stage }) => stage?.name)} />
            <Sums title="owner" of={contacts.map(({ owner }) => owner)} />
            <Sums title="company" of={contacts.map(({ company }) => company?.name)} />
            <Sums title="deals" of={contacts.map(({ deals }) => (deals.length > 0 ? String(deals.length) : undefined))} />
          </tbody>
        </table>
      </div>
      <p className="quiet mt-2 text-[12.5px]">
        Tags, consent, signals, deals, tasks and notes of both are kept, and what comes for either address comes to the one that stays. No
        rule runs because of it.
      </p>
      {wrong && (
        <p role="alert" className="text-error mt-2 font-medium">
          {wrong}
        </p>
      )}
      <div className="mt-4 flex gap-2">
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={isBusy}
          onClick={() => void run(contacts[kept], contacts[other], Object.fromEntries(taken.map((fact) => [fact.key, fact.values[other]])))}
        >
          {isBusy ? 'Merging …' : `Merge into ${contacts[kept].name}`}
        </button>
        <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={onClose}>
          Leave them
        </button>
      </div>
    </>
  );
}

function Who({ contact, stays, onPick }: { contact: ContactView; stays: boolean; onPick: () => void }) {
  return (
    <th className="pr-3 align-top font-normal">
      <label className="flex items-start gap-2">
        <input type="radio" name="kept" className="radio radio-primary radio-xs mt-1" checked={stays} onChange={onPick} />
        <span>
          <b className="text-base-content">{contact.name}</b> {stays && 'stays'}
          <span className="quiet block text-[12px] [overflow-wrap:anywhere]">
            {contact.email ?? 'no address'} · added <When at={contact.added} />
          </span>
        </span>
      </label>
    </th>
  );
}

/** A fact of both; where they differ, that of one side is chosen. */
function FactRow({ fact, side: chosen, onPick }: { fact: Fact; side: Side; onPick: (side: Side) => void }) {
  return (
    <tr className="border-base-300/60 border-b">
      <th className="quiet pr-3 text-left font-normal">{fact.name}</th>
      {SIDES.map((side) => (
        <td key={side} className="pr-3 [overflow-wrap:anywhere]">
          {isContested(fact) ? (
            <label className="flex items-start gap-2">
              <input
                type="radio"
                name={`fact ${fact.key}`}
                className="radio radio-primary radio-xs mt-1"
                aria-label={`${fact.name}: ${fact.shown[side] ?? ''}`}
                checked={chosen === side}
                onChange={() => onPick(side)}
              />
              {fact.shown[side]}
            </label>
          ) : (
            (fact.shown[side] ?? <span className="quiet">–</span>)
          )}
        </td>
      ))}
    </tr>
  );
}

/** What is kept of both, or follows from the one that stays. */
function Sums({ title, of }: { title: string; of: readonly (string | null | undefined)[] }) {
  if (of.every((each) => !each)) return null;
  return (
    <tr className="border-base-300/60 border-b">
      <th className="quiet pr-3 text-left font-normal">{title}</th>
      {of.map((each, side) => (
        <td key={side} className="pr-3 [overflow-wrap:anywhere]">
          {each || <span className="quiet">–</span>}
        </td>
      ))}
    </tr>
  );
}
