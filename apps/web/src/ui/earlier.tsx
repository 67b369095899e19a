/** The next page of a list whose latest rows stand first; nothing where there is none. */
export function Earlier({
  list,
}: {
  list: { readonly hasNextPage: boolean; readonly isFetching: boolean; readonly fetchNextPage: () => unknown };
}) {
  if (!list.hasNextPage) return null;
  return (
    <button type="button" className="btn btn-xs mt-3 self-start" disabled={list.isFetching} onClick={() => void list.fetchNextPage()}>
      Earlier
    </button>
  );
}
