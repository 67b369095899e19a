import { type toKeys, type Sort, type TableOf } from '@eager-sieve/core';
import { type PeopleAnswer } from '@eager-sieve/contracts';
import { useMemo, useState } from 'react';
import { api } from '../../app/api';
import { inSight, type LaidOut, type TableRowView } from './view';

interface Asked {
  readonly of: TableOf;
  readonly condition: ReturnType<typeof toKeys>;
  readonly columns: readonly LaidOut[];
  readonly sort: readonly Sort[];
  readonly search: string;
  readonly skip: number;
}

/** The rows of the table as far as they were asked for. Until new columns have come, the rows stand under those that they were asked for under. */
export function usePeople({ of, condition, columns, sort, search, skip }: Asked) {
  const asked = useMemo(
    () => ({
      condition,
      ...(of === 'company' ? { of } : {}),
      columns: inSight(columns).map(({ column }) => column),
      ...(sort.length > 0 ? { sort: [...sort] } : {}),
      ...(search ? { search } : {}),
    }),
    [of, condition, columns, sort, search],
  );
  const list = api.usePeopleInfiniteQuery({ body: { ...asked, ...(skip > 0 ? { skip } : {}) } });
  const [under, setUnder] = useState(columns);
  if (list.currentData !== undefined && under !== columns) setUnder(columns);
  const { data, error, hasNextPage, isFetching, fetchNextPage, refetch } = list;
  const rows = useMemo(
    (): readonly TableRowView[] =>
      data?.pages.flatMap((page: PeopleAnswer): readonly TableRowView[] => (of === 'company' ? (page.companies ?? []) : page.contacts)) ??
      [],
    [data, of],
  );
  return {
    asked,
    rows,
    columns: under,
    isLoading: data === undefined,
    isStale: list.currentData === undefined && isFetching,
    error,
    again: () => void refetch(),
    more: hasNextPage && !isFetching ? () => void fetchNextPage() : undefined,
  };
}
