import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { type Capability, type KeyView } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { writeSetting } from '../ledger/settings-ledger';

const hashed = (key: string): string => createHash('sha256').update(key).digest('hex');
const KEPT_MS = 5_000;
const USED_EVERY_MS = 60_000;

/** Makes a key. It is shown this once; what is kept is its hash. */
export async function createKey(
  sql: Sql,
  name: string,
  scopes: readonly string[],
  by: string | null,
  now: number,
): Promise<{ readonly id: number; readonly key: string }> {
  const key = `sieve_${randomBytes(30).toString('base64url')}`;
  const [row] = await sql.query<{ id: number }>(
    'insert into api_key (name, prefix, key_hash, scopes, made_at, made_by) values ($1, $2, $3, $4::text[], $5, $6) returning id',
    [name, key.slice(0, 12), hashed(key), scopes, iso(now), by],
  );
  return { id: row?.id as number, key };
}

@Injectable()
export class KeysService {
  readonly #kept = new Map<
    string,
    { readonly until: number; readonly found: { readonly name: string; readonly scopes: readonly Capability[] } | undefined }
  >();

  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  /** The key behind a token. Looked up again after a few seconds, so that a revoked key stops soon. */
  async find(token: string): Promise<{ readonly name: string; readonly scopes: readonly Capability[] } | undefined> {
    const hash = hashed(token);
    const now = this.clock.now();
    const kept = this.#kept.get(hash);
    if (kept && kept.until > now) return kept.found;
    const [row] = await this.database.query<{ id: number; name: string; scopes: Capability[]; last_used_at: Date | null }>(
      'select id, name, scopes, last_used_at from api_key where key_hash = $1 and revoked_at is null',
      [hash],
    );
    if (row && (row.last_used_at === null || now - row.last_used_at.getTime() > USED_EVERY_MS)) {
      await this.database.query('update api_key set last_used_at = $2 where id = $1', [row.id, iso(now)]);
    }
    if (this.#kept.size > 1_000) this.#kept.clear();
    const found = row && { name: row.name, scopes: row.scopes };
    this.#kept.set(hash, { until: now + KEPT_MS, found });
    return found;
  }

  async list(): Promise<readonly KeyView[]> {
    const rows = await this.database.query<{
      id: number;
      name: string;
      prefix: string;
      scopes: string[];
      made_at: Date;
      last_used_at: Date | null;
      revoked_at: Date | null;
    }>('select id, name, prefix, scopes, made_at, last_used_at, revoked_at from api_key order by id desc');
    return rows.map((row) => ({
      id: row.id,
      name: row.name,
      prefix: row.prefix,
      scopes: row.scopes,
      createdAt: row.made_at.toISOString(),
      lastUsedAt: row.last_used_at?.toISOString() ?? null,
      revokedAt: row.revoked_at?.toISOString() ?? null,
    }));
  }

  async create(name: string, scopes: readonly string[], by: string): Promise<{ readonly id: number; readonly key: string }> {
    return this.database.transaction(async (sql) => {
      const made = await createKey(sql, name, scopes, by, this.clock.now());
      await writeSetting(sql, 'key made', { name, scopes }, by, this.clock.now());
      return made;
    });
  }

  async revoke(id: number, by: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      await sql.query('update api_key set revoked_at = $2 where id = $1 and revoked_at is null', [id, iso(this.clock.now())]);
      await writeSetting(sql, 'key revoked', { id }, by, this.clock.now());
    });
    this.#kept.clear();
  }
}
