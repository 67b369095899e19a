import { Catalogue } from '@eager-sieve/core';
import { useMemo } from 'react';
import { type CatalogueView } from '@eager-sieve/contracts';
import { api } from './api';

export const catalogueOf = (view: CatalogueView): Catalogue =>
  new Catalogue(
    {
      name: view.workspace.name,
      timeZone: view.workspace.timeZone,
      currency: view.workspace.currency,
      ratesMillionths: new Map(Object.entries(view.workspace.rates)),
      colour: view.workspace.colour ?? undefined,
    },
    view.definitions,
  );

/** All definitions, so that pages can describe, read and check conditions without asking the server. */
export function useCatalogue(): Catalogue | undefined {
  const { data } = api.useCatalogueQuery();
  return useMemo(() => data && catalogueOf(data), [data]);
}
