import { z } from 'zod';

const id = z.coerce.number<number>().int().min(1);

/** An id that is a number: of a task, a build, an import. */
export const byNumber = z.object({ id: id.max(2_147_483_647) });
/** The id of an effect in the ledger, of which there can be more than four bytes hold. */
export const byLargeNumber = z.object({ id: id.max(Number.MAX_SAFE_INTEGER) });
