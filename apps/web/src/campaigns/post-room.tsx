import { useDeferredValue, useState } from 'react';
import { Link } from 'react-router';
import { POSTS_SHOWN, type PostView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMayCall } from '../app/use-may';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Tabs } from '../ui/tabs';
import { Paused } from './paused';
import { StaffMails } from './staff-mails';

/** The stand-in for the outside world of mail: every message that went out, to be read and answered as its recipient would. */
export default function PostRoom() {
  const [to, setTo] = useState<'contacts' | 'staff'>('contacts');
  const mayReadStaff = useMayCall('staffMails');
  const [search, setSearch] = useState('');
  const wanted = useDeferredValue(search.trim());
  const { data, error, refetch } = api.usePostsQuery({ search: wanted });
  const [id, setId] = useState<number | null>(null);
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  const post = data?.find((each) => each.id === id) ?? data?.[0];
  return (
    <Page
      title="Post room"
      sentence="Stands in for the outside world: nothing leaves this machine. Read what went out, and answer as the recipient would."
      actions={
        to === 'contacts' && (
          <input
            type="search"
            className="input input-sm w-56"
            aria-label="Search by recipient"
            placeholder="name or address"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
        )
      }
    >
      <Paused />
      {mayReadStaff && (
        <Tabs
          label="Whom it went to"
          tabs={[
            { id: 'contacts', words: 'To contacts' },
            { id: 'staff', words: 'To colleagues' },
          ]}
          open={to}
          onOpen={setTo}
        />
      )}
      {to === 'staff' ? (
        <StaffMails />
      ) : !data ? (
        <Loading />
      ) : data.length === 0 ? (
        wanted ? (
          <Empty title={`Nothing went out to “${wanted}”`} />
        ) : (
          <Empty title="Nothing has gone out">
            Send a message from{' '}
            <Link className="leads" to="/campaigns">
              Campaigns
            </Link>
            ; it arrives here.
          </Empty>
        )
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[320px_minmax(0,1fr)] gap-4 max-lg:grid-cols-1">
          <ul className="panel divide-base-300/60 divide-y overflow-y-auto" aria-label="Messages">
            {data.map((each) => (
              <li key={each.id}>
                <button
                  type="button"
                  aria-pressed={each.id === post?.id}
                  className={`w-full cursor-pointer px-3.5 py-2 text-left ${each.id === post?.id ? 'bg-base-200' : ''}`}
                  onClick={() => setId(each.id)}
                >
                  <span className={each.opened ? '' : 'font-semibold'}>{each.name}</span>
                  <span className="quiet float-right text-[12px]">
                    <When at={each.at} />
                  </span>
                  <span className="quiet block truncate text-[12.5px]">{each.subject}</span>
                </button>
              </li>
            ))}
            {data.length === POSTS_SHOWN && (
              <li className="quiet px-3.5 py-2 text-[12.5px]">The latest {POSTS_SHOWN}: search for those before them.</li>
            )}
          </ul>
          {post && <Letter post={post} />}
        </div>
      )}
    </Page>
  );
}

function Letter({ post }: { post: PostView }) {
  const [act] = api.useActOnPostMutation();
  const dispatch = useAppDispatch();
  const answer = async (what: 'open' | 'reply' | 'bounce', done: string): Promise<void> => {
    const result = await act({ id: post.id, body: { do: what } });
    dispatch(result.error ? told({ kind: 'wrong', text: errorMessage(result.error) }) : told({ kind: 'done', text: done }));
  };
  return (
    <article className="panel p-5" aria-label="The message">
      <h2 className="text-[18px] [overflow-wrap:anywhere]">{post.subject}</h2>
      <p className="quiet">
        to{' '}
        <Link className="leads" to={`/people/${post.contact}`}>
          {post.name}
        </Link>{' '}
        · {post.to} · <When at={post.at} />
      </p>
      <div className="mt-4 text-[15px] leading-relaxed [overflow-wrap:anywhere] whitespace-pre-line">
        <Body post={post} />
      </div>
      {post.unsubscribe !== null && (
        <p className="border-base-300 quiet mt-5 border-t pt-3 text-[12.5px]">
          <a className="leads" href={post.unsubscribe} target="_blank" rel="noreferrer">
            To hear no more from us
          </a>
        </p>
      )}
      <div className="mt-4 flex flex-wrap gap-2">
        {/* What a message that asks to confirm brings back is its link alone. */}
        {post.unsubscribe !== null && (
          <>
            <button type="button" className="btn btn-xs" onClick={() => void answer('open', `${post.name} opened it.`)}>
              Open it
            </button>
            <button type="button" className="btn btn-xs" onClick={() => void answer('reply', `${post.name} replied.`)}>
              Reply
            </button>
            <button type="button" className="btn btn-xs" onClick={() => void answer('bounce', 'It came back as undeliverable.')}>
              Let it bounce
            </button>
          </>
        )}
        <a className="btn btn-xs" href={`/api/app/post-room/${post.id}/eml`}>
          EML
        </a>
      </div>
    </article>
  );
}

/** The text with its choice links as links, by their words. */
function Body({ post }: { post: PostView }) {
  const pieces: React.ReactNode[] = [];
  let rest = post.text;
  while (rest !== '') {
    const next = post.links
      .map((link) => ({ link, at: rest.indexOf(link.url) }))
      .filter((each) => each.at >= 0)
      .sort((a, b) => a.at - b.at)[0];
    if (!next) break;
    pieces.push(
      rest.slice(0, next.at),
      <a key={pieces.length} className="leads" href={next.link.url} target="_blank" rel="noreferrer">
        {next.link.label}
      </a>,
    );
    rest = rest.slice(next.at + next.link.url.length);
  }
  return (
    <>
      {pieces}
      {rest}
    </>
  );
}
