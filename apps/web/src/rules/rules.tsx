import { ruleSentence, type Definition } from '@eager-sieve/core';
import { type RuleFigures } from '@eager-sieve/contracts';
import { Link, useNavigate } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { count, times } from '../ui/number';
import { Shelves } from '../ui/shelf';
import { RetiredList } from '../ui/retired';
import { Page } from '../ui/page';
import { Empty, Loading } from '../ui/states';
import { Offer } from '../ui/offer';
import { When } from '../ui/when';

export default function Rules() {
  const catalogue = useCatalogue();
  const navigate = useNavigate();
  const { data: figures } = api.useRuleFiguresQuery(undefined, { skip: !useMay('audiences:read') });
  if (!catalogue) return <Loading />;
  const rules = [...catalogue.all('rule')].sort((a, b) => a.body.position - b.body.position || a.id - b.id);
  const on = rules.filter((rule) => rule.body.on).length;
  return (
    <Page
      title={`Rules: ${count(rules.length)}`}
      sentence="Standing rules turn what happens into tags and facts, for as long as they are on."
      meta={rules.length > 0 && `${count(on)} on, ${count(rules.length - on)} off`}
      actions={
        <>
          <Link className="btn btn-sm btn-outline btn-primary" to="/rules/depends/all">
            What depends on what
          </Link>
          <Offer needs="definitions:write">
            <button type="button" data-new className="btn btn-sm btn-primary" onClick={() => void navigate('/rules/new')}>
              New rule <kbd className="font-mono text-[11px] opacity-80">n</kbd>
            </button>
          </Offer>
        </>
      }
    >
      {rules.length === 0 ? (
        <Empty title="No rule yet">
          A rule says: when this happens, if that holds, then do this.{' '}
          <Link className="leads" to="/rules/new">
            Make the first one
          </Link>
          .
        </Empty>
      ) : (
        <Shelves items={rules} of={({ body }) => body} keyOf={({ key }) => key}>
          {(rule) => (
            <div className="grid grid-cols-[44px_minmax(0,1fr)] items-baseline gap-x-3 px-4 py-2.5">
              <span
                className={`rounded border px-1.5 text-center text-[12px] font-semibold ${rule.body.on ? 'border-success text-success' : 'border-base-300 quiet'}`}
              >
                {rule.body.on ? 'on' : 'off'}
              </span>
              <div className="min-w-0">
                <Link to={`/rules/${rule.key}`} className="font-semibold hover:underline">
                  {rule.name}
                </Link>
                <RuleRan rule={rule} figures={figures} />
                <p className="quiet truncate text-[12.5px]" title={ruleSentence(rule.body, catalogue)}>
                  {ruleSentence(rule.body, catalogue)}
                </p>
              </div>
            </div>
          )}
        </Shelves>
      )}
      <div className="mt-6 grid grid-cols-4 gap-5 max-lg:grid-cols-2">
        <Tables
          title="Bundles"
          what="Actions used together, from any rule."
          place="/rules/bundles"
          rows={catalogue.all('bundle').map((each) => ({ ...each, note: times(each.body.then.length, 'action') }))}
        />
        <Tables
          title="Signal maps"
          what="Per product, plan or role: which tags it gives and takes back."
          place="/rules/maps"
          rows={catalogue
            .all('map')
            .map((each) => ({ ...each, note: `${times(each.body.rows.length, 'row')}${each.body.on ? '' : ', off'}` }))}
        />
        <Tables
          title="Routing"
          what="Who minds a contact, and in which turn."
          place="/rules/routing"
          rows={catalogue.all('routing').map((each) => ({ ...each, note: times(each.body.rows.length, 'row') }))}
        />
        <section>
          <h2 className="text-[15px]">Ladder</h2>
          <p className="quiet mb-1.5 text-[12.5px]">The stages that contacts climb, and how far they come.</p>
          <ol className="mb-2">
            {catalogue.ladder().map((stage) => (
              <li key={stage.key} className="py-0.5">
                {stage.name}
              </li>
            ))}
          </ol>
          <Link className="btn btn-xs" to="/rules/ladder/funnel">
            How far they come
          </Link>
        </section>
      </div>
      <RetiredList kinds={['rule', 'bundle', 'map', 'routing']} />
    </Page>
  );
}

/** How often a rule ran lately; that one which is on never did is worth a look. */
function RuleRan({ rule, figures }: { rule: Definition<'rule'>; figures: RuleFigures | undefined }) {
  const ran = figures?.rules.find(({ key }) => key === rule.key);
  if (!ran) return null;
  if (ran.lastAt === null) return <span className={`ml-3 text-[12.5px] ${rule.body.on ? 'text-error' : 'quiet'}`}>never ran</span>;
  return (
    <span className="quiet ml-3 text-[12.5px]">
      {ran.fired === 0 ? 'not in the last 30 days' : `${times(ran.fired, 'time')} in 30 days`}, last <When at={ran.lastAt} />
      {ran.refused > 0 && ` · not again ${times(ran.refused, 'time')}`}
    </span>
  );
}

/** What rules make use of, each with a page of its own. */
function Tables({
  title,
  what,
  place,
  rows,
}: {
  title: string;
  what: string;
  place: string;
  rows: readonly { readonly key: string; readonly name: string; readonly note: string }[];
}) {
  return (
    <section>
      <h2 className="text-[15px]">{title}</h2>
      <p className="quiet mb-1.5 text-[12.5px]">{what}</p>
      <ul className="mb-2">
        {rows.map((row) => (
          <li key={row.key} className="py-0.5">
            <Link className="font-semibold hover:underline" to={`${place}/${row.key}`}>
              {row.name}
            </Link>{' '}
            <span className="quiet text-[12.5px]">{row.note}</span>
          </li>
        ))}
      </ul>
      <Offer needs="definitions:write">
        <Link className="btn btn-xs" to={`${place}/new`}>
          New
        </Link>
      </Offer>
    </section>
  );
}
