import { type ReactNode } from 'react';
import { Link } from 'react-router';
import { PARENT_COMPANY, type Catalogue } from '@eager-sieve/core';
import { type CompanySort, type MemberCompany } from '@eager-sieve/contracts';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { people } from './number';
import { Score } from './score';

interface CompanyRowsProps {
  readonly rows: readonly MemberCompany[];
  readonly catalogue: Catalogue;
  readonly more?: (() => void) | undefined;
  readonly last?: { readonly title: string; readonly cell: (row: MemberCompany) => ReactNode };
  readonly label: string;
  /** left out where it is in an order of its own */
  readonly order?: { readonly sort: CompanySort; readonly down: boolean; readonly onSort: (sort: CompanySort) => void } | undefined;
}

const FACTS = 3;
/** Fields that have a column of their own, or say nothing in a row. */
const NOT_LISTED = new Set(['company-name', 'added', PARENT_COMPANY]);

/** A table of companies, each with its people, its score and the first of its facts. */
export function CompanyRows({ rows, catalogue, more, last, label, order }: CompanyRowsProps) {
  const card = catalogue.all('scorecard').find((each) => each.body.of === 'company');
  return (
    <div role="region" aria-label={label} tabIndex={0} className="min-h-72 flex-1 overflow-auto">
      <table className="table w-full min-w-[620px] table-fixed">
        <thead className="bg-base-200 sticky top-0 z-1">
          <tr className="quiet text-left text-[12px]">
            <Head by="name" order={order} className="h-6.5 w-[26%]">
              Company
            </Head>
            <Head by="score" order={order} className="w-[18%]">
              {card?.name ?? 'Score'}
            </Head>
            <Head by="contacts" order={order} className="w-[12%]">
              Contacts
            </Head>
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

interface HeadProps extends Pick<CompanyRowsProps, 'order'> {
  readonly by: CompanySort;
  readonly className: string;
  readonly children: ReactNode;
}

/** The head of a column, by which the table can be sorted. */
function Head({ by, order, className, children }: HeadProps) {
  if (!order) return <th className={`${className} pr-2.5`}>{children}</th>;
  const isSorted = order.sort === by;
  const Arrow = order.down ? ArrowDown : ArrowUp;
  return (
    <th className={`${className} pr-2.5`} aria-sort={isSorted ? (order.down ? 'descending' : 'ascending') : undefined}>
      <button type="button" className="flex min-h-[24px] w-full items-center gap-1 text-left font-medium" onClick={() => order.onSort(by)}>
        {children}
        {isSorted && <Arrow size={12} aria-hidden className="text-primary" />}
      </button>
    </th>
  );
}
