import { type Catalogue } from '@eager-sieve/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { type ContactView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { wordsOf } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { signed } from '../ui/number';
import { Score } from '../ui/score';
import { Tag } from '../ui/tag';
import { When } from '../ui/when';
import { Why } from '../ui/why';

interface FactsProps {
  readonly contact: ContactView;
  readonly catalogue: Catalogue;
}

const HIDDEN = new Set(['email', 'added', 'given-name', 'family-name']);
const STRONGEST = 4;

/** What is known of a contact: facts, tags, scores and audiences, each with the way to its reason. */
export function Facts({ contact, catalogue }: FactsProps) {
  return (
    <>
      <section className="mb-4">
        <h2 className="mb-1.5 text-[14px]">Facts</h2>
        <dl className="grid grid-cols-[112px_1fr] gap-y-1.25">
          {contact.fields
            .filter((field) => !HIDDEN.has(field.key))
            .map((field) => (
              <div key={field.key} className="contents" data-fact>
                <dt className="quiet">{field.name}</dt>
                <dd className="[overflow-wrap:anywhere]">
                  {field.shown}
                  <Why subject={{ contact: contact.id, of: 'field', key: field.key }} label={field.name} />
                </dd>
              </div>
            ))}
          {contact.consent.map((each) => (
            <div key={each.channel} className="contents" data-fact>
              <dt className="quiet">consent to {each.channel}</dt>
              <dd>
                {each.state}
                <Why subject={{ contact: contact.id, of: 'consent', key: each.channel }} label={`consent to ${each.channel}`} />
              </dd>
            </div>
          ))}
        </dl>
        {contact.fields.every((field) => HIDDEN.has(field.key)) && <p className="quiet">Nothing but the address is known yet.</p>}
      </section>
      <Tags contact={contact} catalogue={catalogue} />
      <section className="mb-4">
        <h2 className="mb-1.5 text-[14px]">Scores</h2>
        {contact.scores.map((score) => (
          <div key={score.key} className="mb-2.5" data-fact>
            <Score points={score.points} band={score.band} card={catalogue.find('scorecard', score.key)?.body} name={score.name} />
            <Why subject={{ contact: contact.id, of: 'band', key: score.key }} label={`this band of ${score.name}`} />
            <ul className="mt-1 text-[12.5px]">
              {score.lines.slice(0, STRONGEST).map((line) => (
                <li key={line.key} className="grid grid-cols-[1fr_56px] py-0.5">
                  <span>
                    {line.name}
                    {line.signals !== null && line.signals > 1 && <span className="quiet"> · {line.signals} times</span>}
                  </span>
                  <span className={`text-right ${line.points < 0 ? 'text-error' : 'text-success'}`}>
                    {signed(Math.round(line.points * 10) / 10)}
                  </span>
                </li>
              ))}
              {score.lines.length > STRONGEST && (
                <li className="quiet grid grid-cols-[1fr_56px] py-0.5">
                  <span>{score.lines.length - STRONGEST} more lines</span>
                  <span className="text-right">
                    {signed(Math.round(score.lines.slice(STRONGEST).reduce((sum, line) => sum + line.points, 0) * 10) / 10)}
                  </span>
                </li>
              )}
            </ul>
          </div>
        ))}
        {contact.scores.length === 0 && <p className="quiet">There is no scorecard yet.</p>}
      </section>
      <Audiences contact={contact} catalogue={catalogue} />
    </>
  );
}

function Tags({ contact, catalogue }: FactsProps) {
  const [put, { isLoading }] = api.usePutContactsMutation();
  const dispatch = useAppDispatch();
  const [adding, setAdding] = useState('');
  const held = new Set(contact.tags.map((tag) => tag.key));
  const change = async (tag: string, has: boolean): Promise<void> => {
    const result = await put({
      matchBy: contact.email ? 'email' : 'outsideId',
      onExisting: 'update',
      contacts: [{ ...(contact.email ? { email: contact.email } : { outsideId: contact.outsideId ?? '' }), tags: { [tag]: has } }],
    });
    if (result.error) dispatch(told({ kind: 'wrong', text: wordsOf(result.error) }));
    else setAdding('');
  };
  const free = catalogue.all('tag').filter((tag) => !held.has(tag.key));
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">Tags</h2>
      <ul className="flex flex-col gap-1.25">
        {contact.tags.map((tag) => (
          <li key={tag.key} data-fact className="group">
            <Tag name={tag.key} title={tag.name} />
            <Why subject={{ contact: contact.id, of: 'tag', key: tag.key }} label={tag.key} />
            <span className="quiet ml-1.5 text-[12px]">
              <When at={tag.since} />
              {tag.reasons.length > 1 && `, ${tag.reasons.length} reasons`}
            </span>
            <button
              type="button"
              className="quiet ml-2 cursor-pointer text-[12px] opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 hover:underline"
              disabled={isLoading}
              onClick={() => void change(tag.key, false)}
            >
              take off
            </button>
          </li>
        ))}
      </ul>
      {contact.tags.length === 0 && <p className="quiet">No tags.</p>}
      {free.length > 0 && (
        <select
          className="field mt-1.5 max-w-56"
          aria-label="Add a tag"
          value={adding}
          disabled={isLoading}
          onChange={(event) => (setAdding(event.target.value), void change(event.target.value, true))}
        >
          <option value="" disabled>
            + tag
          </option>
          {free.map((tag) => (
            <option key={tag.key} value={tag.key}>
              {tag.key}
            </option>
          ))}
        </select>
      )}
    </section>
  );
}

function Audiences({ contact, catalogue }: FactsProps) {
  const inside = new Map(contact.audiences.map((audience) => [audience.key, audience]));
  return (
    <section>
      <h2 className="mb-1.5 text-[14px]">
        In {contact.audiences.length} of {catalogue.all('audience').length} audiences
      </h2>
      <ul className="flex flex-col gap-1">
        {catalogue.all('audience').map((audience) => {
          const membership = inside.get(audience.key);
          return (
            <li key={audience.key} data-fact>
              <Link to={`/audiences/${audience.key}`} className="leads">
                {audience.name}
              </Link>{' '}
              <span className="quiet text-[12px]">{membership ? <When at={membership.since} /> : 'no'}</span>
              <Why
                subject={{ contact: contact.id, of: 'membership', key: audience.key }}
                label={membership ? `in ${audience.name}` : `not in ${audience.name}`}
              />
            </li>
          );
        })}
      </ul>
    </section>
  );
}
