import { errorMessage } from '../app/errors';
import { type Draft } from '../app/use-draft';
import { useSeesOwn } from '../app/use-may';
import { count, signed, times } from '../ui/number';
import { keptTo } from '../ui/shelf';
import { type AudienceFigures } from './audience-figures';
import { Movement } from './audiences';
import { WhatItIs } from './what-it-is';

/** What there is to say of a live audience under its sentence: how many can be reached, who moved, what a change would do. */
export function AudienceState({ draft, figures }: { draft: Draft<'audience'>; figures: AudienceFigures }) {
  const { body, isNew, changed, itemKey, catalogue } = draft;
  const { answer, view, pinned, stands, difference } = figures;
  const { of } = body;
  const seesOwn = useSeesOwn();
  const reliers = catalogue.all('message').filter((message) => message.body.audience === catalogue.find('audience', itemKey)?.id).length;
  return (
    <>
      {isNew ? <WhatItIs draft={draft} /> : 'live audience'}
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

const pinnedWords = ({ in: inside, out }: { readonly in: number; readonly out: number }): string =>
  [inside > 0 ? `${count(inside)} pinned in` : '', out > 0 ? `${count(out)} pinned out` : ''].filter(Boolean).join(', ');
