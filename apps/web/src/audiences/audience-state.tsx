import { EVERYONE, type AudienceBody } from '@eager-sieve/core';
import { useSearchParams } from 'react-router';
import { errorMessage } from '../app/errors';
import { type Draft } from '../app/use-draft';
import { useSeesOwn } from '../app/use-may';
import { Choice } from '../conditions/lines/inputs';
import { count, signed, times } from '../ui/number';
import { keptTo } from '../ui/shelf';
import { type AudienceFigures } from './audience-figures';
import { Movement } from './audiences';

/** What there is to say of a live audience under its sentence: how many can be reached, who moved, what a change would do. */
export function AudienceState({ draft, figures }: { draft: Draft<'audience'>; figures: AudienceFigures }) {
  const { body, isNew, changed, itemKey, catalogue } = draft;
  const { answer, view, pinned, stands, difference } = figures;
  const { of } = body;
  const seesOwn = useSeesOwn();
  const reliers = catalogue.all('message').filter((message) => message.body.audience === catalogue.find('audience', itemKey)?.id).length;
  return (
    <>
      {isNew ? <OfWhom of={of} onPick={(next) => draft.setBody({ kind: 'live', of: next, condition: EVERYONE })} /> : 'live audience'}
      {body.team !== undefined && ` · ${keptTo(body.team)}`}
      {seesOwn && ' · you see your own contacts in it'}
      {of === 'contact' && answer && ` · ${count(answer.reachable)} can be reached by email`}
      {view && pinned > 0 && ` · ${pinnedWords(view.pinned)}`}
      {view && (
        <>
          {' · '}
          {stands ? 'as it stood when it broke' : view.building ? 'being brought up' : <Movement came={view.came} left={view.left} />}
        </>
      )}
      {changed && !isNew && (
        <>
          {' · '}
          <b className="text-base-content">unsaved: {difference === 0 ? 'the same number as before' : signed(difference)}</b>
          {reliers > 0 && `, ${times(reliers, 'message')} ${reliers === 1 ? 'goes' : 'go'} to it`}
        </>
      )}
      {figures.error && !stands && <span className="text-error"> · {errorMessage(figures.error)}</span>}
    </>
  );
}

/** Whom a new audience is of, and whether it keeps itself: either stays as it was made. */
function OfWhom({ of, onPick }: { of: AudienceBody['of']; onPick: (of: AudienceBody['of']) => void }) {
  const [, setSearch] = useSearchParams();
  return (
    <Choice
      label="What it is"
      value={of}
      choices={[
        ['contact', 'live audience of people'],
        ['company', 'live audience of companies'],
        ['fixed', 'fixed list, filled by hand'],
      ]}
      onPick={(next) => (next === 'fixed' ? setSearch({ kind: 'fixed' }) : onPick(next as 'contact'))}
    />
  );
}

const pinnedWords = ({ in: inside, out }: { readonly in: number; readonly out: number }): string =>
  [inside > 0 ? `${count(inside)} pinned in` : '', out > 0 ? `${count(out)} pinned out` : ''].filter(Boolean).join(', ');
