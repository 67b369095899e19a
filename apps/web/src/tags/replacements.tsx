import { type Catalogue } from '@eager-sieve/core';
import { type TagReplacementView } from '@eager-sieve/contracts';
import { useEffect, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay } from '../app/use-may';
import { ChangedWithIt } from '../ui/changed-with-it';
import { Dialog } from '../ui/dialog';
import { DialogEnd } from '../ui/dialog-button';
import { people } from '../ui/number';
import { Loading } from '../ui/states';
import { Tag } from '../ui/tag';
import { When } from '../ui/when';
import { RenameTag } from './rename-tag';
import { SplitTag } from './split-tag';

const POLL_MS = 700;
const OVER: readonly TagReplacementView['state'][] = ['done', 'stopped', 'taken back'];

/** The way to replace a tag by another, and the times that was done, each with the way back. */
export function Replacements({ tagKey, retired, catalogue }: { tagKey: string; retired: boolean; catalogue: Catalogue }) {
  const tag = catalogue.find('tag', tagKey);
  const mayReplace = useMay('definitions:write', 'contacts:write', 'audiences:read');
  const [search] = useSearchParams();
  const [isAsked, setIsAsked] = useState(search.has('by'));
  const [isWatched, setIsWatched] = useState(true);
  const { data } = api.useTagReplacementsQuery({ key: tagKey }, { pollingInterval: isWatched ? POLL_MS : 0 });
  const isGoing = data?.replacements.some(({ state }) => !OVER.includes(state)) ?? false;
  if (data && isGoing !== isWatched) setIsWatched(isGoing);
  // What that did to definitions is asked for when it is over.
  const dispatch = useAppDispatch();
  const wasGoing = useRef(false);
  useEffect(() => {
    if (!isGoing && wasGoing.current) dispatch(api.util.invalidateTags(['Catalogue', 'Count']));
    wasGoing.current = isGoing;
  }, [isGoing, dispatch]);
  return (
    <section className="mt-3" aria-label="Replacements">
      {mayReplace && !retired && (
        <span className="flex flex-wrap gap-2">
          {tag && <RenameTag tag={tag} catalogue={catalogue} disabled={isGoing} />}
          <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={isGoing} onClick={() => setIsAsked(true)}>
            Replace by another tag …
          </button>
          {tag && <SplitTag tag={tag} catalogue={catalogue} disabled={isGoing} onBegun={() => setIsWatched(true)} />}
        </span>
      )}
      <ul className="mt-2">
        {data?.replacements.map((replacement) => (
          <Replaced key={replacement.id} replacement={replacement} mayReplace={mayReplace} onBegun={() => setIsWatched(true)} />
        ))}
      </ul>
      {isAsked && mayReplace && !retired && (
        <ReplaceDialog
          tagKey={tagKey}
          catalogue={catalogue}
          first={search.get('by') ?? ''}
          onBegun={() => setIsWatched(true)}
          onClose={() => setIsAsked(false)}
        />
      )}
    </section>
  );
}

const STATES: Readonly<Record<TagReplacementView['state'], string>> = {
  begun: 'beginning …',
  'handing on': 'its people are getting the other tag …',
  'taking off': 'it is being taken off its people …',
  done: 'done',
  stopped: 'stopped',
  'taking back': 'being taken back …',
  'taken back': 'taken back',
};

function Replaced({
  replacement: { id, from, into, parts, by, state, error, madeAt },
  mayReplace,
  onBegun,
}: {
  replacement: TagReplacementView;
  mayReplace: boolean;
  onBegun: () => void;
}) {
  const [takeBack, { isLoading }] = api.useTakeBackTagReplacementMutation();
  const dispatch = useAppDispatch();
  const back = async (): Promise<void> => {
    const result = await takeBack({ id });
    if (result.error) dispatch(told({ kind: 'wrong', text: errorMessage(result.error) }));
    else onBegun();
  };
  return (
    <li className="flex flex-wrap items-baseline gap-x-2 py-0.5">
      <Tag name={from} /> <span className="quiet">{parts.length > 0 ? 'split into' : 'replaced by'}</span>
      {parts.map((part) => (
        <span key={part.tag}>
          <Tag name={part.tag} /> <span className="quiet">where {part.words};</span>
        </span>
      ))}
      {parts.length > 0 && <span className="quiet">everyone else:</span>}
      <Tag name={into} />
      <span className="quiet">
        {by}, <When at={madeAt} />
      </span>
      <span role="status">{STATES[state]}</span>
      {error !== null && (
        <span role="alert" className="text-error">
          {error}. Its people have both tags, and nothing else was changed: take it back, mend that, and replace it again.
        </span>
      )}
      {(state === 'done' || state === 'stopped') && mayReplace && (
        <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void back()}>
          Take back
        </button>
      )}
    </li>
  );
}

interface ReplaceDialogProps {
  readonly tagKey: string;
  readonly catalogue: Catalogue;
  /** the key of the tag that is proposed */
  readonly first: string;
  readonly onBegun: () => void;
  readonly onClose: () => void;
}

function ReplaceDialog({ tagKey, catalogue, first, onBegun, onClose }: ReplaceDialogProps) {
  const [into, setInto] = useState(first);
  const [rehearse, rehearsal] = api.useRehearseTagReplacementMutation();
  const [replacement, replacing] = api.useReplaceTagMutation();
  const others = catalogue.all('tag').filter(({ key }) => key !== tagKey);
  const go = async (): Promise<void> => {
    const result = await replacement({ key: tagKey, body: { into, parts: [] } });
    if (result.error) return;
    onBegun();
    onClose();
  };
  return (
    <Dialog open title={`Replace ${tagKey} by another tag`} onClose={onClose}>
      <p>
        Whoever has it gets the other one, for the same reasons; whatever names it names the other one; it is retired then. Nothing is set
        off by that, and all of it can be taken back.
      </p>
      <label className="mt-3 flex flex-wrap items-center gap-2">
        <span>By</span>
        <select
          className="select select-sm w-auto max-w-80"
          value={into}
          onChange={(event) => {
            setInto(event.target.value);
            rehearsal.reset();
          }}
        >
          <option value="">choose …</option>
          {others.map(({ key, name }) => (
            <option key={key} value={key}>
              {key}: {name}
            </option>
          ))}
        </select>
        <button
          type="button"
          className="btn btn-sm"
          disabled={into === '' || rehearsal.isLoading}
          onClick={() => void rehearse({ key: tagKey, body: { into, parts: [] } })}
        >
          Rehearse
        </button>
      </label>
      {rehearsal.isLoading && <Loading what="Looking what that would change" />}
      {rehearsal.data && (
        <div className="mt-3" role="status">
          <p>
            {people(rehearsal.data.people)} would get {into}; {rehearsal.data.both} of them have it already.
          </p>
          <ChangedWithIt definitions={rehearsal.data.definitions} />
        </div>
      )}
      <DialogEnd
        error={replacing.error ?? rehearsal.error}
        act="Replace it"
        disabled={!rehearsal.data || replacing.isLoading}
        onAct={() => void go()}
        onClose={onClose}
      />
    </Dialog>
  );
}
