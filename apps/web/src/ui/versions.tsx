import { countedWords, differenceOf, type Bodies, type Catalogue, type DefinitionKind } from '@eager-sieve/core';
import { type DefinitionVersion } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { count } from './number';
import { Offer } from './offer';
import { Loading, Wrong } from './states';
import { When } from './when';

interface VersionsProps<Kind extends DefinitionKind> {
  readonly kind: Kind;
  readonly itemKey: string;
  readonly catalogue: Catalogue;
  /** the version that is kept now */
  readonly now: number;
  readonly onPick: (name: string, body: Bodies[Kind]) => void;
}

/** How a definition was each time it was kept: what changed in it, by whom and when, and what that moved. */
export function Versions<Kind extends DefinitionKind>({ kind, itemKey, catalogue, now, onPick }: VersionsProps<Kind>) {
  const { data, error, refetch } = api.useVersionsQuery({ kind, key: itemKey });
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  return (
    <>
      <div className="max-h-[60vh] overflow-y-auto" tabIndex={0} role="group" aria-label="Versions">
        <table className="table w-full">
          <tbody>
            {data.map((each, index) => (
              <tr key={each.version} className="align-top">
                <td className="font-medium">{each.version}</td>
                <td className="[overflow-wrap:anywhere]">
                  {each.name}
                  <span className="quiet block text-[12.5px]">
                    <When at={each.at} />
                    {each.by && `, ${each.by}`}
                  </span>
                  <Changed kind={kind} version={each} before={data[index + 1]} catalogue={catalogue} />
                  <Moved moved={each.moved} />
                </td>
                <td className="text-right">
                  {each.version === now ? (
                    <span className="quiet">kept now</span>
                  ) : (
                    <Offer needs="definitions:write">
                      <button type="button" className="btn btn-xs" onClick={() => onPick(each.name, each.body as Bodies[Kind])}>
                        Put into the draft
                      </button>
                    </Offer>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="quiet mt-2 text-[12.5px]">A version in the draft changes nothing until it is kept.</p>
    </>
  );
}

interface ChangedProps {
  readonly kind: DefinitionKind;
  readonly version: DefinitionVersion;
  readonly before: DefinitionVersion | undefined;
  readonly catalogue: Catalogue;
}

/** What this version says and the one before it did not. Of the first one, that it was made says enough. */
function Changed({ kind, version, before, catalogue }: ChangedProps) {
  if (!before) return version.version === 1 ? <span className="block">made</span> : null;
  const said = (each: DefinitionVersion) => ({ name: each.name, body: each.body as Bodies[typeof kind] });
  const { added, gone } = differenceOf(kind, said(before), said(version), catalogue);
  if (added.length + gone.length === 0) return <span className="block">put in another order</span>;
  return (
    <ul className="mt-0.5 text-[13px]">
      {added.map((text, index) => (
        <li key={`+${index}`}>
          <span className="text-success font-medium" aria-label="new:">
            +
          </span>{' '}
          {text}
        </li>
      ))}
      {gone.map((text, index) => (
        <li key={`-${index}`} className="quiet">
          <span className="text-error font-medium" aria-label="no longer:">
            −
          </span>{' '}
          {text}
        </li>
      ))}
    </ul>
  );
}

/** What came of keeping it, before anybody did anything else. */
function Moved({ moved }: Pick<DefinitionVersion, 'moved'>) {
  const kinds = Object.entries(moved);
  if (kinds.length === 0) return null;
  return (
    <span className="quiet block text-[12.5px]">
      It moved: {kinds.map(([name, n]) => `${count(n)} ${countedWords(name, n)}`).join(', ')}.
    </span>
  );
}
