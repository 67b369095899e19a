import { addressesIn } from '@eager-sieve/core';
import { useState } from 'react';
import { api } from '../app/api';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { changeOf, type Meant } from '../contacts/table/change-many';
import { DialogEnd } from '../ui/dialog-button';
import { Labelled } from '../ui/labelled';
import { count, subjects, times } from '../ui/number';

const MOST = 5_000;

interface PasteProps {
  readonly itemKey: string;
  readonly name: string;
  readonly onClose: () => void;
}

/** Puts whoever has the addresses of a pasted text on a list. Who is unknown is shown, and not made. */
export function PasteAddresses(props: PasteProps) {
  const [find, { error }] = api.useFindAddressesMutation();
  return (
    <PasteMany
      {...props}
      of="contact"
      label="Email addresses, however they are written: one a line, between commas, with names"
      read={(text) => {
        const { addresses, wrong } = addressesIn(text);
        const notes = wrong.length === 0 ? [] : [`not an address: ${firstOf(wrong)}`];
        return { named: addresses, words: times(addresses.length, 'address', 'addresses'), notes };
      }}
      error={error}
      find={async (addresses) => {
        const { data } = await find({ body: { addresses: [...addresses] } });
        return data && { ids: [...new Set(data.known.map(({ id }) => id))], unknown: data.unknown, several: [] };
      }}
      unknown={(n) =>
        `Nobody has ${n === 1 ? 'this address' : `these ${count(n)} addresses`}, and nobody is made for ${n === 1 ? 'it' : 'them'}`
      }
    />
  );
}

/** Puts the companies of a pasted text on a list, one a line. What is unknown is shown, and not made. */
export function PasteCompanies(props: PasteProps) {
  const [find, { error }] = api.useFindCompaniesMutation();
  return (
    <PasteMany
      {...props}
      of="company"
      label="Companies, one a line: by name or outside id"
      read={(text) => {
        const named = [...new Set(text.split(/\r?\n/).map((line) => line.trim()))].filter(Boolean);
        return { named, words: times(named.length, 'line'), notes: [] };
      }}
      error={error}
      find={async (named) => {
        const { data } = await find({ body: { named: [...named] } });
        return data && { ids: [...new Set(data.known.map(({ id }) => id))], unknown: data.unknown, several: data.several };
      }}
      unknown={(n) => `No company goes by ${n === 1 ? 'this' : `these ${count(n)}`}, and none is made`}
    />
  );
}

/** The first of some, and how many more there are. */
const firstOf = (all: readonly string[]): string =>
  `${all.slice(0, 5).join(', ')}${all.length > 5 ? ` and ${count(all.length - 5)} more` : ''}`;

interface FoundMany {
  readonly ids: readonly string[];
  readonly unknown: readonly string[];
  /** names that more than one has */
  readonly several: readonly string[];
}

interface PasteManyProps extends PasteProps {
  readonly of: Meant['of'];
  readonly label: string;
  /** what a text names, how many that are, and what is said beside */
  readonly read: (text: string) => { readonly named: readonly string[]; readonly words: string; readonly notes: readonly string[] };
  readonly find: (named: readonly string[]) => Promise<FoundMany | undefined>;
  /** why it could not be looked up */
  readonly error: unknown;
  /** what is said of so many that are not known */
  readonly unknown: (n: number) => string;
}

function PasteMany({ itemKey, name, onClose, of, label, read, find, error, unknown }: PasteManyProps) {
  const [text, setText] = useState('');
  const [found, setFound] = useState<FoundMany>();
  const [isLooking, setIsLooking] = useState(false);
  const [change, changing] = api.useChangeManyMutation();
  const dispatch = useAppDispatch();
  const { named, words, notes } = read(text);
  const tooMany = named.length > MOST ? [`at most ${count(MOST)} at a time: bring more in as a file`] : [];
  const look = async (): Promise<void> => {
    setIsLooking(true);
    setFound(await find(named));
    setIsLooking(false);
  };
  const putOn = async (): Promise<void> => {
    if (!found) return;
    const ids = [...found.ids];
    const meant: Meant = of === 'company' ? { of, who: { companies: ids } } : { of, who: { contacts: ids } };
    const { data } = await change({ body: changeOf(meant, { lists: { [itemKey]: true } }) });
    if (!data) return;
    dispatch(told({ kind: 'done', text: `${subjects(of, data.total)} ${data.total === 1 ? 'is' : 'are'} put on ${name}.` }));
    onClose();
  };
  return (
    <>
      <Labelled label={label}>
        <textarea
          className="textarea h-36 w-full"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setFound(undefined);
          }}
        />
      </Labelled>
      <p className="quiet mt-1.5 text-[12.5px]" aria-live="polite">
        {text.trim() === '' ? 'Nothing is pasted yet.' : [words, ...notes, ...tooMany].join(' · ')}
      </p>
      {found && (
        <div className="mt-2" role="status">
          <p>
            <b>{subjects(of, found.ids.length)}</b> {found.ids.length === 1 ? 'is' : 'are'} known
          </p>
          <NotMeant words={unknown(found.unknown.length)} named={found.unknown} />
          <NotMeant words="More than one company has this name: paste its outside id instead" named={found.several} />
        </div>
      )}
      {found ? (
        <DialogEnd
          error={changing.error}
          act={`Put ${subjects(of, found.ids.length)} on`}
          disabled={found.ids.length === 0 || changing.isLoading}
          onAct={() => void putOn()}
          onClose={onClose}
        />
      ) : (
        <DialogEnd
          error={error}
          act="Look them up"
          disabled={named.length === 0 || tooMany.length > 0 || isLooking}
          onAct={() => void look()}
          onClose={onClose}
        />
      )}
    </>
  );
}

function NotMeant({ words, named }: { words: string; named: readonly string[] }) {
  if (named.length === 0) return null;
  return (
    <>
      <p className="text-error mt-1.5 font-medium">{words}:</p>
      <ul className="panel mt-1.5 max-h-32 overflow-y-auto px-3 py-1.5 text-[12.5px]" tabIndex={0} aria-label={words}>
        {named.map((each) => (
          <li key={each} className="[overflow-wrap:anywhere]">
            {each}
          </li>
        ))}
      </ul>
    </>
  );
}
