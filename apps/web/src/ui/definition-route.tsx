import { type Bodies, type Catalogue, type DefinitionKind } from '@eager-sieve/core';
import { isValidElement, type ComponentType, type ReactElement } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { useCatalogue } from '../app/use-catalogue';
import { useDraft, type Draft } from '../app/use-draft';
import { Empty, Loading } from './states';

interface RouteOf<Kind extends DefinitionKind> {
  readonly kind: Kind;
  /** what it is called, such as "bundle" */
  readonly thing: string;
  /** where all of them stand, and what that is called */
  readonly all: readonly [address: string, words: string];
  /** where the page of one lives, such as `/rules` */
  readonly address: string;
  /** the body of a new one, or what is said where none can be made yet */
  readonly useNew: (catalogue: Catalogue, search: URLSearchParams) => Bodies[Kind] | ReactElement;
  readonly Editor: ComponentType<{ readonly draft: Draft<Kind> }>;
}

/** Makes the page for the definitions of a kind: it loads what its address names, says where there is no such thing, and edits a draft of it. */
export function definitionRoute<Kind extends DefinitionKind>(route: RouteOf<Kind>) {
  function Route({ catalogue }: { catalogue: Catalogue }) {
    const { key = '' } = useParams();
    const [search] = useSearchParams();
    const fresh = route.useNew(catalogue, search);
    const known = key === 'new' ? undefined : catalogue.find(route.kind, key);
    const [address, words] = route.all;
    if (key !== 'new' && !known)
      return (
        <Empty title={`There is no such ${route.thing}`}>
          <Link className="leads" to={address}>
            {words}
          </Link>
        </Empty>
      );
    if (!known && isValidElement(fresh)) return fresh;
    const body = known?.body ?? (fresh as Bodies[Kind]);
    // A new version is a new draft: what was kept by somebody else is not overwritten unseen.
    return <Drafted key={`${key} ${known?.version ?? 0}`} itemKey={key} name={known?.name ?? ''} body={body} catalogue={catalogue} />;
  }
  function Drafted({ itemKey, name, body, catalogue }: { itemKey: string; name: string; body: Bodies[Kind]; catalogue: Catalogue }) {
    const draft = useDraft({ kind: route.kind, itemKey, saved: { name, body }, catalogue, address: route.address });
    return <route.Editor draft={draft} />;
  }
  return function DefinitionRoute() {
    const catalogue = useCatalogue();
    return catalogue ? <Route catalogue={catalogue} /> : <Loading />;
  };
}
