import { Catalogue, Compiled, hiddenFrom, LANGUAGE, type AnyDefinition, type Workspace } from '@eager-sieve/core';
import { type Own } from '../contacts/own';
import { ServerError, type Sql } from '../database/database';

interface WorkspaceRow {
  name: string;
  time_zone: string;
  currency: string;
  rates: Record<string, number>;
  colour: string | null;
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
  /** how those of each team see an epoch */
  readonly #seen = new WeakMap<Epoch, Map<string | null, Epoch>>();

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

  /** The epoch as somebody is shown it: without what is kept to other teams. For answers alone; contacts are worked by the whole of it. */
  async seen(sql: Sql, own: Own): Promise<Epoch> {
    const current = await this.current(sql);
    if (own === undefined) return current;
    const byTeam = this.#seen.get(current) ?? new Map<string | null, Epoch>();
    this.#seen.set(current, byTeam);
    const seen = byTeam.get(own.team) ?? seenBy(current, own);
    byTeam.set(own.team, seen);
    return seen;
  }
}

function seenBy(current: Epoch, own: Own): Epoch {
  const { catalogue } = current.compiled;
  const shown = shownTo(catalogue, own);
  return shown === catalogue ? current : { epoch: current.epoch, compiled: new Compiled(shown, current.epoch) };
}

/** The definitions that somebody is shown. */
export function shownTo(catalogue: Catalogue, own: Own): Catalogue {
  const hidden = own === undefined ? new Set<number>() : hiddenFrom(catalogue, own.team);
  return hidden.size === 0 ? catalogue : catalogue.without(hidden);
}

/** Reads the workspace and every definition. */
export async function loadCatalogue(sql: Sql): Promise<Catalogue> {
  const [row] = await sql.query<WorkspaceRow>('select name, time_zone, currency, rates, colour, epoch from workspace where id = 1');
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
    colour: row?.colour ?? undefined,
  };
  for (const definition of definitions) if (definition.epochCause === null) delete (definition as { epochCause?: unknown }).epochCause;
  const gone = await sql.query<{ id: number; kind: AnyDefinition['kind']; name: string }>(
    'select id, kind, name from definition where deleted',
  );
  return new Catalogue(workspace, definitions, new Map(gone.map((each) => [each.id, each])));
}
