import { describe, type Group, type Leaf } from '@eager-sieve/core';
import { useState } from 'react';
import { faultsIn } from '../app/errors';
import { type Draft } from '../app/use-draft';
import { Outline } from '../conditions/outline';
import { count } from '../ui/number';
import { AudienceActions } from './audience-actions';
import { DefinitionPage } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { AudienceState } from './audience-state';
import { DraftFigures, useAudienceFigures } from './audience-figures';
import { FixedList } from './fixed-list';
import { NEW_AUDIENCES } from './what-it-is';
import { WhoComesThrough } from './who-comes-through';

/** An audience that keeps itself by its conditions. */
function LiveAudience({ draft }: { draft: Draft<'audience'> }) {
  const { body, itemKey, catalogue, isNew, changed } = draft;
  const { of } = body;
  const figures = useAudienceFigures(draft);
  const { group, settled, condition, answer, view, stands } = figures;
  const [line, setLine] = useState<Leaf | undefined>();
  const setGroup = (next: Group): void => draft.setBody({ ...body, condition: next });
  return (
    <DefinitionPage
      draft={draft}
      thing="audience"
      beside={
        <>
          <em className="text-primary not-italic" data-count>
            {figures.total}
          </em>
          {view?.building && !changed && !stands && (
            <span className="quiet text-[14px] font-normal">
              <span aria-hidden className="bg-warning mr-1.5 inline-block size-2 rounded-full" />
              {count(view.members)} of them brought up so far
            </span>
          )}
        </>
      }
      sentence={describe(group, catalogue, of === 'company' ? 'Companies' : 'People')}
      meta={<AudienceState draft={draft} figures={figures} />}
      also={!isNew && !changed && <AudienceActions of={of} itemKey={itemKey} name={draft.name} catalogue={catalogue} />}
      kept={`${draft.name} keeps itself from now on.`}
      faults={stands ? [] : faultsIn(figures.error)}
    >
      <Outline
        at={['condition']}
        value={group}
        catalogue={catalogue}
        of={of}
        onChange={setGroup}
        lines={answer?.lines}
        total={answer?.of ?? 0}
        stale={figures.isFetching || settled !== group}
        onDraft={setLine}
        draft={line && <DraftFigures draft={line} of={of} group={group} catalogue={catalogue} />}
      />
      <WhoComesThrough
        audienceKey={isNew ? undefined : itemKey}
        of={of}
        condition={condition}
        group={settled}
        catalogue={catalogue}
        answer={answer}
        pinned={view && figures.pinned}
        settledDown={figures.settledDown}
      />
    </DefinitionPage>
  );
}

/** Either kind of audience stays what it was made. */
function Audience({ draft }: { draft: Draft<'audience'> }) {
  return draft.body.kind === 'fixed' ? <FixedList draft={draft} /> : <LiveAudience draft={draft} />;
}

export default definitionRoute({
  kind: 'audience',
  thing: 'audience',
  all: ['/audiences', 'All audiences'],
  address: '/audiences',
  useNew: (_catalogue, search) => (search.get('kind') === 'fixed' ? NEW_AUDIENCES['list of people'] : NEW_AUDIENCES.people),
  Editor: Audience,
});
