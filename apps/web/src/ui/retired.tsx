import { DOCUMENT_SECTIONS, kindWord, type Catalogue, type DefinitionKind } from '@eager-sieve/core';
import { Link } from 'react-router';
import { addressOf } from '../app/addresses';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { useSave } from '../app/use-save';

/** What a definition does no more once it is retired. */
export const afterRetiring = (kind: DefinitionKind): string =>
  kind === 'rule' || kind === 'map' ? 'it no longer runs' : 'it is no longer offered anywhere';

/** Said at the head of a definition that is retired, with the way back. */
export function RetiredNote({
  kind,
  itemKey,
  catalogue,
  written,
}: {
  kind: DefinitionKind;
  itemKey: string;
  catalogue: Catalogue;
  written: () => Record<string, unknown>;
}) {
  const mayWrite = useMay('definitions:write');
  const [save, saving] = useSave();
  const definition = catalogue.find(kind, itemKey);
  if (!definition?.retired) return null;
  const back = (): Promise<boolean> =>
    save({ [DOCUMENT_SECTIONS[kind]]: [{ key: itemKey, name: definition.name, ...written() }] }, `${definition.name} is back.`);
  return (
    <div role="status" className="alert border-base-300 bg-base-100 mb-3 flex flex-wrap justify-between">
      <span>
        <b>This {kindWord(kind)} is retired:</b> {afterRetiring(kind)}.
      </span>
      {mayWrite && (
        <>
          <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={saving} onClick={() => void back()}>
            Bring it back
          </button>
        </>
      )}
    </div>
  );
}

/** Under a list: what is retired of these kinds. Nothing where nothing is. */
export function RetiredList({ kinds }: { kinds: readonly DefinitionKind[] }) {
  const catalogue = useCatalogue();
  const retired = kinds.flatMap((kind) => catalogue?.every(kind).filter((each) => each.retired) ?? []);
  if (retired.length === 0) return null;
  return (
    <details className="mt-4">
      <summary className="leads cursor-pointer">{retired.length} retired</summary>
      <ul className="mt-1.5">
        {retired.map((each) => (
          <li key={each.id} className="py-1">
            <Link className="leads" to={addressOf(each.kind, each.key)}>
              {each.name}
            </Link>{' '}
            <span className="quiet">{kindWord(each.kind)}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}
