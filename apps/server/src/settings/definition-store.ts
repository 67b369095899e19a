import { Catalogue, Compiled, LANGUAGE, type AnyDefinition, type Workspace } from '@eager-sieve/core';
import { ServerError, type Sql } from '../database/database';

interface WorkspaceRow {
  name: string;
  time_zone: string;
  currency: string;
  rates: Record<string, number>;
  epoch: number;
}

/** All definitions of one epoch, compiled. */
export interface Epoch {
  readonly epoch: number;
  readonly compiled: Compiled;
}

/** Keeps the newest epoch compiled; another is loaded when the workspace has moved on. */
export class DefinitionStore {
  #kept: Epoch | undefined;

  /** The epoch that the transaction is in. Under a shared epoch lock it cannot change until the end of it. */
  async current(sql: Sql): Promise<Epoch> {
    const [row] = await sql.query<{ epoch: number }>('select epoch from workspace where id = 1');
    if (!row) throw new Error('There is no workspace yet: run the migrations first.');
    if (this.#kept?.epoch === row.epoch) return this.#kept;
    const catalogue = await loadCatalogue(sql);
    const loaded: Epoch = { epoch: row.epoch, compiled: new Compiled(catalogue, row.epoch) };
    if (!this.#kept || this.#kept.epoch < row.epoch) this.#kept = loaded;
    return loaded;
  }
}

/** Reads the workspace and every definition. */
export async function loadCatalogue(sql: Sql): Promise<Catalogue> {
  const [row] = await sql.query<WorkspaceRow>('select name, time_zone, currency, rates, epoch from workspace where id = 1');
  const [newer] = await sql.query<{ key: string; language: number }>('select key, language from definition where language <> $1 limit 1', [
    LANGUAGE,
  ]);
  if (newer)
    throw new ServerError(
      `The definition ${newer.key} is written in version ${newer.language} of the condition language, and this program reads version ${LANGUAGE}.`,
    );
  const definitions = await sql.query<AnyDefinition>(
    'select id, kind, key, name, version, retired, epoch, epoch_cause as "epochCause", on_epoch as "onEpoch", body from definition where not deleted order by id',
  );
  const workspace: Workspace = {
    name: row?.name ?? '',
    timeZone: row?.time_zone ?? 'UTC',
    currency: row?.currency ?? 'EUR',
    ratesMillionths: new Map(Object.entries(row?.rates ?? {})),
  };
  for (const definition of definitions) if (definition.epochCause === null) delete (definition as { epochCause?: unknown }).epochCause;
  const gone = await sql.query<{ id: number; kind: AnyDefinition['kind']; name: string }>(
    'select id, kind, name from definition where deleted',
  );
  return new Catalogue(workspace, definitions, new Map(gone.map((each) => [each.id, each])));
}
