import { Link, useNavigate } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { useSeesOwn } from '../app/use-may';
import { keptTo, Shelves } from '../ui/shelf';
import { RetiredList } from '../ui/retired';
import { Page } from '../ui/page';
import { count, subjects, times } from '../ui/number';
import { Empty, Loading, Wrong } from '../ui/states';
import { Offer } from '../ui/offer';

export default function Audiences() {
  const { data, error, refetch } = api.useAudiencesQuery();
  const catalogue = useCatalogue();
  const navigate = useNavigate();
  const seesOwn = useSeesOwn();
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  return (
    <Page
      title={`Audiences: ${count(data.audiences.length)}`}
      sentence={`Groups of people that fill and empty themselves, to the second.${seesOwn ? ' Of each you see your own contacts.' : ''}`}
      actions={
        <Offer needs="definitions:write">
          <button type="button" data-new className="btn btn-sm btn-primary" onClick={() => void navigate('/audiences/new')}>
            New audience <kbd className="font-mono text-[11px] opacity-80">n</kbd>
          </button>
        </Offer>
      }
    >
      {data.audiences.length === 0 ? (
        <Empty title="No audience yet">
          An audience is a condition that keeps its own list.{' '}
          <Link to="/audiences/new" className="leads">
            Make the first one
          </Link>
          .
        </Empty>
      ) : (
        <Shelves items={data.audiences} of={({ key }) => catalogue?.find('audience', key)?.body} keyOf={({ key }) => key}>
          {(audience) => (
            <div className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-6 px-4 py-2.5">
              <div className="min-w-0">
                <Link to={`/audiences/${audience.key}`} className="font-semibold hover:underline">
                  {audience.name}
                </Link>
                {audience.team !== null && <span className="quiet text-[12.5px]"> · {keptTo(audience.team)}</span>}
                <p className="quiet truncate text-[12.5px]" title={audience.sentence}>
                  {audience.sentence}
                </p>
              </div>
              <div className="text-right">
                <div className="font-semibold">{audience.building ? 'being built' : subjects(audience.of, audience.members)}</div>
                <div className="quiet text-[12.5px]">
                  {audience.broken ? (
                    <span className="text-error">broken: stands still</span>
                  ) : (
                    <Movement came={audience.came} left={audience.left} />
                  )}
                </div>
              </div>
            </div>
          )}
        </Shelves>
      )}
      <RetiredList kinds={['audience']} />
    </Page>
  );
}

/** Who came in and who left since yesterday, in words. */
export function Movement({ came, left }: { came: number; left: number }) {
  if (came + left === 0) return <>nobody moved since yesterday</>;
  return (
    <>
      since yesterday <span className="text-success">{times(came, 'came in', 'came in')}</span>,{' '}
      <span className="text-error">{times(left, 'left', 'left')}</span>
    </>
  );
}
