import { type Catalogue } from '@eager-sieve/core';
import { type Timetable, type WatchBody } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { Choice } from '../conditions/lines/inputs';
import { Labelled } from '../ui/labelled';
import { type ForAll } from './import-options';

/** A watched file without how it is read. */
export type Draft = Omit<WatchBody, 'options'>;

interface PartProps {
  readonly draft: Draft;
  readonly onChange: (next: Partial<Draft>) => void;
}

const OFTEN: readonly (readonly [string, string])[] = [
  ['5', 'every 5 minutes'],
  ['15', 'every 15 minutes'],
  ['60', 'every hour'],
  ['240', 'every 4 hours'],
  ['day', 'once a day'],
];
const HOURS = Array.from({ length: 24 }, (_, hour): [string, string] => [String(hour), `at ${hour}:00`]);

interface WhereProps extends PartProps {
  readonly isLooking: boolean;
  readonly onLook: () => void;
  /** whether the password is known already */
  readonly isKnownLogin: boolean;
}

/** Where the file lies, and when it is looked at. */
export function Where({ draft, onChange, isLooking, onLook, isKnownLogin }: WhereProps) {
  const mayWrite = useMay('settings:write', 'contacts:write');
  const { data: places } = api.useWatchedPlacesQuery(undefined);
  const { place } = draft;
  const files = places?.files.map(({ name }): [string, string] => [name, name]) ?? [];
  const isKnown = place.kind !== 'file' || place.name === '' || files.some(([name]) => name === place.name);
  return (
    <>
      <div className="flex flex-wrap items-end gap-x-3 gap-y-2">
        <Labelled label="Name">
          <input
            className="input input-sm w-56"
            value={draft.name}
            maxLength={80}
            placeholder="The guild’s address book"
            onChange={(event) => onChange({ name: event.target.value })}
          />
        </Labelled>
        <Labelled label="It lies">
          <Choice
            label="It lies"
            value={place.kind}
            choices={[
              ['file', 'in the watched folder'],
              ['address', 'at an address'],
            ]}
            onPick={(kind) => onChange({ login: undefined, place: kind === 'file' ? { kind, name: '' } : { kind: 'address', url: '' } })}
          />
        </Labelled>
        {place.kind === 'file' ? (
          <Labelled label="The file">
            <Choice
              label="The file"
              value={place.name}
              choices={[
                ['', files.length === 0 ? 'the folder is empty' : 'choose one'],
                ...files,
                ...(isKnown ? [] : [[place.name, `${place.name} (not there)`] as [string, string]]),
              ]}
              onPick={(name) => onChange({ place: { kind: 'file', name } })}
            />
          </Labelled>
        ) : (
          <Labelled label="The address">
            <input
              className="input input-sm w-80"
              value={place.url}
              maxLength={2_000}
              placeholder="http://localhost:5232/members.vcf"
              onChange={(event) => onChange({ place: { kind: 'address', url: event.target.value.trim() } })}
            />
          </Labelled>
        )}
        {place.kind === 'address' && <LoginOf login={draft.login} isKnown={isKnownLogin} onChange={(login) => onChange({ login })} />}
        {mayWrite && (
          <button
            type="button"
            className="btn btn-sm"
            disabled={isLooking || (place.kind === 'file' ? place.name : place.url) === ''}
            onClick={onLook}
          >
            {isLooking ? 'Looking …' : 'Look into it'}
          </button>
        )}
        <Timetabled timetable={draft.timetable} onChange={(timetable) => onChange({ timetable })} />
      </div>
      <p className="quiet mt-1.5 [overflow-wrap:anywhere]">
        {place.kind === 'file'
          ? places?.folder === null
            ? 'No folder is watched here: whoever runs this installation says which.'
            : `Files are put into ${places?.folder ?? '…'} on the machine that runs this.`
          : `Addresses on the machine that runs this can be read${places?.hosts.length ? `, and those of ${places.hosts.join(', ')}` : ''}.`}
      </p>
    </>
  );
}

interface LoginOfProps {
  readonly login: Draft['login'];
  readonly isKnown: boolean;
  readonly onChange: (login: Draft['login']) => void;
}

function LoginOf({ login, isKnown, onChange }: LoginOfProps) {
  return (
    <>
      <Labelled label="User, if it wants a login">
        <input
          className="input input-sm w-40"
          autoComplete="off"
          value={login?.user ?? ''}
          maxLength={200}
          onChange={(event) => onChange(event.target.value === '' ? undefined : { ...login, user: event.target.value })}
        />
      </Labelled>
      {login && (
        <Labelled label="Password">
          <input
            className="input input-sm w-40"
            type="password"
            autoComplete="new-password"
            value={login.password ?? ''}
            maxLength={500}
            placeholder={isKnown ? 'stays as it is' : ''}
            onChange={(event) =>
              onChange({ user: login.user, ...(event.target.value === '' && isKnown ? {} : { password: event.target.value }) })
            }
          />
        </Labelled>
      )}
    </>
  );
}

function Timetabled({ timetable, onChange }: { timetable: Timetable; onChange: (timetable: Timetable) => void }) {
  const often = 'hour' in timetable ? 'day' : String(timetable.everyMinutes);
  const choices = OFTEN.some(([key]) => key === often) ? OFTEN : [[often, `every ${often} minutes`] as const, ...OFTEN];
  return (
    <Labelled label="It is looked at">
      <span className="flex gap-2">
        <Choice
          label="It is looked at"
          value={often}
          choices={choices}
          onPick={(next) => onChange(next === 'day' ? { hour: 6 } : { everyMinutes: Number(next) })}
        />
        {'hour' in timetable && (
          <Choice label="Hour" value={String(timetable.hour)} choices={HOURS} onPick={(hour) => onChange({ hour: Number(hour) })} />
        )}
      </span>
    </Labelled>
  );
}

/** What happens to contacts that were in the file and are not any more. */
export function Gone({ draft: { gone }, forAll, catalogue, onChange }: PartProps & { forAll: ForAll; catalogue: Catalogue }) {
  const tags = catalogue.all('tag').filter((tag) => tag.body.value === undefined && !forAll.addTags.includes(tag.key));
  const hasMarks = forAll.addTags.length > 0 || forAll.list !== undefined;
  return (
    <section className="mt-4">
      <h2 className="mb-1.5 text-[15px]">Who was in it and is not any more</h2>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <label className="inline-flex min-h-[32px] cursor-pointer items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs"
            checked={gone.takeOff}
            disabled={!hasMarks && !gone.takeOff}
            onChange={(event) => onChange({ gone: { ...gone, takeOff: event.target.checked } })}
          />
          loses the tags and the list that all rows get
        </label>
        <Labelled label="Gets the tag">
          <Choice
            label="Gets the tag"
            value={gone.tag ?? ''}
            choices={[['', 'no tag'], ...tags.map(({ key }): [string, string] => [key, key])]}
            onPick={(tag) => onChange({ gone: { takeOff: gone.takeOff, ...(tag === '' ? {} : { tag }) } })}
          />
        </Labelled>
      </div>
      <p className="quiet mt-1">
        {hasMarks ? '' : 'Give all rows a tag or a list first, so that there is something to lose. '}
        When more than a fifth are gone at once, nobody is touched until you say that it is right. A contact itself is never removed.
      </p>
    </section>
  );
}
