import { actionWords, type BundleBody, type RuleAction } from '@eager-sieve/core';
import { useState } from 'react';
import { type Draft } from '../app/use-draft';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { Opener } from '../ui/opener';
import { Actions } from './actions';
import { detailsOfAny, SignalDetails } from './signal-details';
import { Sweeps } from './sweeps';

const NEW_BUNDLE: BundleBody = { then: [{ action: { do: 'make task', title: 'Get in touch', dueDays: 0 } }] };

/** Actions that are used together, from any rule; each with a condition of its own, if wanted. */
function Bundle({ draft }: { draft: Draft<'bundle'> }) {
  const { body, catalogue, itemKey, isNew } = draft;
  const [asked, setAsked] = useState<number | null>(null);
  const put = (actions: readonly RuleAction[]): void =>
    draft.setBody({
      ...body,
      then: actions.map((action, index) => ({ ...(body.then[index]?.if ? { if: body.then[index].if } : {}), action })),
    });
  const putIf = (index: number, condition: ReturnType<typeof asGroup>): void => {
    const { if: _if, ...rest } = body.then[index] ?? { action: { do: 'notify' as const, text: '' } };
    draft.setBody({ ...body, then: body.then.with(index, condition.of.length === 0 ? rest : { ...rest, if: condition }) });
  };
  return (
    <DefinitionPage
      draft={draft}
      thing="bundle"
      kept={`The bundle ${draft.name} is kept. Rules that run it do so from now on.`}
      sentence={`Does, in order: ${body.then.map((step) => actionWords(step.action, catalogue)).join('; ')}.`}
    >
      <Editing>
        <div className="panel mb-3 p-4">
          <SignalDetails value={detailsOfAny(catalogue)}>
            <Actions inBundle actions={body.then.map((step) => step.action)} catalogue={catalogue} onChange={put} />
          </SignalDetails>
        </div>
        <h2 className="mb-1.5 text-[15px]">Only where this holds</h2>
        <ul className="flex flex-col gap-2">
          {body.then.map((step, index) => (
            <li key={index}>
              <Opener open={asked === index} onToggle={() => setAsked(asked === index ? null : index)}>
                {index + 1}. {actionWords(step.action, catalogue)}: {step.if ? 'only where its conditions hold' : 'always'}
              </Opener>
              {asked === index && (
                <div className="appears mt-1.5">
                  <Outline
                    at={['then', index, 'if']}
                    value={asGroup(step.if)}
                    catalogue={catalogue}
                    onChange={(condition) => putIf(index, condition)}
                  />
                </div>
              )}
            </li>
          ))}
        </ul>
      </Editing>
      {!isNew && !draft.retired && (
        <div className="mt-4">
          <Sweeps
            what={{ kind: 'bundle', key: itemKey, name: draft.name }}
            of="contact"
            title="Runs by hand"
            means="From the page of a contact, from an audience, or from People narrowed down."
            always
            wouldTouch={undefined}
          />
        </div>
      )}
    </DefinitionPage>
  );
}

export default definitionRoute({
  kind: 'bundle',
  thing: 'bundle',
  all: ['/rules', 'All rules'],
  address: '/rules/bundles',
  useNew: () => NEW_BUNDLE,
  Editor: Bundle,
});
