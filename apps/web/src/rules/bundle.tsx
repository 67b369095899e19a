import { actionWords, type BundleBody, type Catalogue, type RuleAction } from '@eager-sieve/core';
import { useState } from 'react';
import { useParams } from 'react-router';
import { useCatalogue } from '../app/use-catalogue';
import { useDraft } from '../app/use-draft';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { DraftPage } from '../ui/draft-page';
import { Opener } from '../ui/opener';
import { Loading } from '../ui/states';
import { Actions } from './actions';
import { Gone } from './gone';
import { detailsOfAny, SignalDetails } from './signal-details';

const NEW_BUNDLE: BundleBody = { then: [{ action: { do: 'make task', title: 'Get in touch', dueDays: 0 } }] };

export default function BundlePage() {
  const { key = '' } = useParams();
  const catalogue = useCatalogue();
  if (!catalogue) return <Loading />;
  const bundle = catalogue.find('bundle', key);
  if (key !== 'new' && !bundle) return <Gone thing="bundle" />;
  return (
    <Bundle
      key={`${key} ${bundle?.version ?? 0}`}
      itemKey={key}
      name={bundle?.name ?? ''}
      saved={bundle?.body ?? NEW_BUNDLE}
      catalogue={catalogue}
    />
  );
}

/** Actions that are used together, from any rule; each with a condition of its own, if wanted. */
function Bundle({ itemKey, name, saved, catalogue }: { itemKey: string; name: string; saved: BundleBody; catalogue: Catalogue }) {
  const draft = useDraft({ kind: 'bundle', itemKey, saved: { name, body: saved }, catalogue, address: '/rules/bundles' });
  const { body } = draft;
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
    <DraftPage
      kind="bundle"
      itemKey={itemKey}
      catalogue={catalogue}
      draft={draft}
      thing="bundle"
      kept={`The bundle ${draft.name} is kept. Rules that run it do so from now on.`}
      sentence={`Does, in order: ${body.then.map((step) => actionWords(step.action, catalogue)).join('; ')}.`}
    >
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
    </DraftPage>
  );
}
