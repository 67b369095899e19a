import { ruleFindings, type Catalogue, type Circle } from '@eager-sieve/core';
import { Link } from 'react-router';
import { useTriedRules } from './use-tried-rules';

/** Rules that go round, undo each other, or wait for what is off: found before anything runs. */
export function RuleFindings({ catalogue }: { catalogue: Catalogue }) {
  const tried = useTriedRules(catalogue);
  const circles = tried?.circles;
  const findings = ruleFindings(catalogue);
  const told = circles?.filter(({ verdict }) => verdict !== 'ruled out') ?? [];
  return (
    <section aria-label="Worth a look" className="flex flex-col gap-2">
      <h2 className="text-[15px]">Before anything runs</h2>
      {circles === undefined && (
        <p className="quiet" role="status">
          Trying the rules on made-up contacts and companies …
        </p>
      )}
      {circles !== undefined && told.length === 0 && (
        <p>
          No rules go round
          {circles.length > 0
            ? `: ${circles.length} that could set themselves off were tried on people and companies made up for it, and none did`
            : ''}
          .
        </p>
      )}
      {told.map((circle) => (
        <CircleFound key={circle.rules.join(' ')} circle={circle} catalogue={catalogue} />
      ))}
      {tried?.dead.map((id) => (
        <DeadRule key={id} id={id} catalogue={catalogue} />
      ))}
      {findings.map((finding, index) => (
        <div key={index} className="panel px-4 py-2">
          <RuleNames ids={finding.rules} catalogue={catalogue} /> <span>{finding.words}</span>
        </div>
      ))}
    </section>
  );
}

/** A rule for which nobody can ever be. */
export const DeadRule = ({ id, catalogue }: { id: number; catalogue: Catalogue }) => (
  <div className="panel px-4 py-2">
    <RuleNames ids={[id]} catalogue={catalogue} /> can never run: {catalogue.body('rule', id)?.of === 'company' ? 'no company' : 'nobody'}{' '}
    can be as it asks.
  </div>
);

/** One circle: which rules, and who goes round. */
export function CircleFound({ circle: { rules, verdict, witness }, catalogue }: { circle: Circle; catalogue: Catalogue }) {
  if (verdict === 'proved' && witness) {
    const [who, that, them] = witness.of === 'company' ? ['A company', 'that', 'it'] : ['Somebody', 'who', 'them'];
    const before =
      witness.before.length === 0
        ? `${who} of ${that === 'who' ? 'whom' : 'which'} nothing of this is known`
        : `${who} with ${and(witness.before)}`;
    return (
      <div role="alert" className="panel border-error px-4 py-2">
        <p className="text-error font-semibold">
          {rules.length === 1 ? 'This rule sets itself off without end' : 'These rules set each other off without end'}:{' '}
          <RuleNames ids={witness.round.length > 0 ? witness.round : rules} catalogue={catalogue} />
        </p>
        <p>
          {before} {that} comes to have {and(witness.change)} goes round, until {rules.length === 1 ? 'the rule is' : 'the rules are'}{' '}
          stopped for {them}.
        </p>
      </div>
    );
  }
  return (
    <div className="panel px-4 py-2">
      <RuleNames ids={rules} catalogue={catalogue} />{' '}
      {rules.length === 1
        ? 'could set itself off. None of the people and companies made up for it went round, but not every kind was tried.'
        : 'could set each other off. None of the people and companies made up for it went round, but not every kind was tried.'}
    </div>
  );
}

const and = (words: readonly string[]): string =>
  words.length < 2 ? (words[0] ?? 'nothing') : `${words.slice(0, -1).join(', ')} and ${words.at(-1) ?? ''}`;

function RuleNames({ ids, catalogue }: { ids: readonly number[]; catalogue: Catalogue }) {
  return ids.map((id, index) => {
    const rule = catalogue.get('rule', id);
    return (
      <span key={id}>
        {index > 0 && ' and '}
        <Link className="leads font-semibold" to={`/rules/${rule?.key ?? ''}`}>
          {rule?.name ?? '…'}
        </Link>
      </span>
    );
  });
}
