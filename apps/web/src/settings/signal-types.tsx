import { builtInSignalTypes, detailName } from '@eager-sieve/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { RetiredList } from '../ui/retired';
import { definitionSection, type SectionProps } from './section';
import { Wide } from '../ui/wide';

const BUILT_IN: ReadonlySet<string> = new Set(builtInSignalTypes.map((type) => type.key));

/** The kinds of things that happen: those every workspace has, and one's own. */
function SignalTypes({ catalogue, mayWrite }: SectionProps) {
  const all = catalogue.all('signalType');
  const own = all.filter((type) => !BUILT_IN.has(type.key));
  const [isWhole, setWhole] = useState(own.length === 0);
  return (
    <section>
      <div className="mb-2 flex items-baseline justify-between gap-3">
        <h2 className="text-[16px]">Signal types</h2>
        <span className="flex gap-2">
          {own.length > 0 && (
            <button type="button" className="btn btn-sm btn-outline btn-primary" aria-pressed={isWhole} onClick={() => setWhole(!isWhole)}>
              {isWhole ? 'Only our own' : `All ${all.length}`}
            </button>
          )}
          {mayWrite && (
            <Link className="btn btn-sm btn-outline btn-primary" to="/settings/signal-types/new">
              New signal type
            </Link>
          )}
        </span>
      </div>
      <Wide>
        <table className="table panel w-full min-w-[620px] table-fixed">
          <thead>
            <tr className="quiet text-left text-[12px]">
              <th className="w-[34%] px-4 py-1.5">A contact …</th>
              <th className="w-[16%]">Whose doing</th>
              <th className="w-[24%]">Key</th>
              <th className="pr-4">Details</th>
            </tr>
          </thead>
          <tbody>
            {(isWhole ? all : own).map((type) => (
              <tr key={type.key} className="border-base-300/60 border-t">
                <td className="truncate px-4 py-1 font-medium">
                  <Link className="leads" to={`/settings/signal-types/${type.key}`}>
                    {type.body.verb}
                  </Link>
                </td>
                <td>{WHOSE[type.body.direction]}</td>
                <td className="truncate font-mono text-[12px]">{type.key}</td>
                <td className="quiet truncate pr-4">{type.body.fields.map((field) => detailName(field, type.body.fields)).join(', ')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
      <RetiredList kinds={['signalType']} />
    </section>
  );
}

const WHOSE = { 'from them': 'theirs', 'from us': 'ours', neither: 'nobody’s' } as const;

export default definitionSection(SignalTypes);
