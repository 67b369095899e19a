import { type ReactNode } from 'react';
import { Link } from 'react-router';
import { PARENT_COMPANY, type Catalogue } from '@eager-sieve/core';
import { type MemberCompany } from '@eager-sieve/contracts';
import { people } from './number';
import { Score } from './score';

interface CompanyRowsProps {
  readonly rows: readonly MemberCompany[];
  readonly catalogue: Catalogue;
  readonly more?: (() => void) | undefined;
  readonly last?: { readonly title: string; readonly cell: (row: MemberCompany) => ReactNode };
  readonly label: string;
}

const FACTS = 3;
/** Fields that have a column of their own, or say nothing in a row. */
const NOT_LISTED = new Set(['company-name', 'added', PARENT_COMPANY]);

/** A table of companies, each with its people, its score and the first of its facts. */
export function CompanyRows({ rows, catalogue, more, last, label }: CompanyRowsProps) {
  const card = catalogue.all('scorecard').find((each) => each.body.of === 'company');
  return (
    <div role="region" aria-label={label} tabIndex={0} className="min-h-72 flex-1 overflow-auto">
      <table className="table w-full min-w-[760px] table-fixed">
        <thead className="bg-base-200 sticky top-0 z-1">
          <tr className="quiet text-left text-[12px]">
            <th className="h-6.5 w-[26%] pr-2.5">Company</th>
            <th className="w-[18%] pr-2.5">{card?.name ?? 'Score'}</th>
            <th className="w-[12%] pr-2.5">Contacts</th>
            <th className="pr-2.5">Facts</th>
            {last && <th className="w-[14%]">{last.title}</th>}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => {
            const score = row.scores?.find((each) => each.key === card?.key);
            const facts = (row.fields ?? []).filter((field) => !NOT_LISTED.has(field.key)).slice(0, FACTS);
            return (
              <tr key={row.id} className="border-base-300/60 hover:bg-base-100 h-9 border-b">
                <td className="truncate pr-2.5">
                  <Link to={`/people/companies/${row.id}`} className="font-semibold hover:underline" title={row.outsideId}>
                    {row.name}
                  </Link>
                </td>
                <td className="truncate pr-2.5">{score && card && <Score points={score.points} band={score.band} card={card.body} />}</td>
                <td className="pr-2.5">{row.contacts === 0 ? <span className="quiet">none</span> : people(row.contacts)}</td>
                <td className="truncate pr-2.5">
                  {facts.map((fact) => (
                    <span key={fact.key} className="mr-3">
                      <span className="quiet">{fact.name}</span> {fact.shown}
                    </span>
                  ))}
                </td>
                {last && <td className="truncate">{last.cell(row)}</td>}
              </tr>
            );
          })}
        </tbody>
      </table>
      {more && (
        <button type="button" className="btn btn-xs my-2" onClick={more}>
          More
        </button>
      )}
    </div>
  );
}
