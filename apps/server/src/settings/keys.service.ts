import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { type Capability, type KeyView } from '@eager-sieve/contracts';
import { IsNull } from 'typeorm';
import { Database, type Transaction } from '../database/database';
import { ApiKey } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { conflict, notFound } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';

const hashed = (key: string): string => createHash('sha256').update(key).digest('hex');
const KEPT_MS = 5_000;
const USED_EVERY_MS = 60_000;
const RESTORED_WITHIN_MS = 60_000;

/** Makes a key. It is shown this once; what is kept is its hash. */
export async function createKey(
  sql: Transaction,
  name: string,
  scopes: readonly Capability[],
  by: string | null,
  now: number,
): Promise<{ readonly id: number; readonly key: string }> {
  const key = `sieve_${randomBytes(30).toString('base64url')}`;
  const { id } = await sql.table(ApiKey).save({
    name,
    prefix: key.slice(0, 12),
    keyHash: hashed(key),
    scopes: [...scopes],
    madeAt: new Date(now),
    madeBy: by,
  });
  return { id, key };
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
    const row = await this.database.read(ApiKey).findOneBy({ keyHash: hash, revokedAt: IsNull() });
    if (row && (row.lastUsedAt === null || now - row.lastUsedAt.getTime() > USED_EVERY_MS))
      await this.database.transaction(async (sql) => {
        const first = await sql.table(ApiKey).update({ id: row.id, lastUsedAt: IsNull() }, { lastUsedAt: new Date(now) });
        if (first.affected === 1) await writeSetting(sql, 'key first used', { name: row.name }, `key ${row.name}`, now);
        else await sql.table(ApiKey).update(row.id, { lastUsedAt: new Date(now) });
      });
    if (this.#kept.size > 1_000) this.#kept.clear();
    const found = row === null ? undefined : { name: row.name, scopes: row.scopes };
    this.#kept.set(hash, { until: now + KEPT_MS, found });
    return found;
  }

  async list(): Promise<readonly KeyView[]> {
    const keys = await this.database.read(ApiKey).find({ order: { id: 'desc' } });
    return keys.map(({ id, name, prefix, scopes, madeAt, lastUsedAt, revokedAt }) => ({
      id,
      name,
      prefix,
      scopes,
      createdAt: madeAt.toISOString(),
      lastUsedAt: lastUsedAt?.toISOString() ?? null,
      revokedAt: revokedAt?.toISOString() ?? null,
    }));
  }

  async create(name: string, scopes: readonly Capability[], by: string): Promise<{ readonly id: number; readonly key: string }> {
    return this.database.transaction(async (sql) => {
      const made = await createKey(sql, name, scopes, by, this.clock.now());
      await writeSetting(sql, 'key made', { name, scopes }, by, this.clock.now());
      return made;
    });
  }

  async revoke(id: number, by: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      const key = await sql.table(ApiKey).findOneBy({ id });
      if (!key) throw notFound('key');
      if (key.revokedAt !== null) return;
      await sql.table(ApiKey).update(id, { revokedAt: new Date(this.clock.now()) });
      await writeSetting(sql, 'key revoked', { name: key.name }, by, this.clock.now());
    });
    this.#kept.clear();
  }

  async rename(id: number, name: string, by: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      const key = await sql.table(ApiKey).findOneBy({ id });
      if (!key) throw notFound('key');
      if (key.name === name) return;
      await sql.table(ApiKey).update(id, { name });
      await writeSetting(sql, 'key renamed', { name, before: key.name }, by, this.clock.now());
    });
    this.#kept.clear();
  }

  /** Undoes that a key was revoked, for a short while: later a new key is made. */
  async restore(id: number, by: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      const key = await sql.table(ApiKey).findOneBy({ id });
      if (!key) throw notFound('key');
      if (key.revokedAt === null) return;
      const now = this.clock.now();
      if (now - key.revokedAt.getTime() > RESTORED_WITHIN_MS)
        throw conflict('key.gone', 'It was revoked too long ago. Make a new key instead.');
      await sql.table(ApiKey).update(id, { revokedAt: null });
      await writeSetting(sql, 'key restored', { name: key.name }, by, now);
    });
    this.#kept.clear();
  }
}
