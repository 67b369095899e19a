import { briefWords, countChanges, effectWords, type Catalogue } from '@eager-sieve/core';
import { type TakeBackAnswer } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { type TakenBack } from '../engine/take-back';
import { EFFECT_COLUMNS, EFFECT_TABLES, type StoredEffect } from './ledger.service';

/** So many that stay are told one by one. */
export const STAYS_TOLD = 200;
const SAMPLES = 25;

/** The same words once, with how often: “− message opened (3 times)” */
export function withTimes(words: readonly string[]): string[] {
  const times = new Map<string, number>();
  for (const each of words) times.set(each, (times.get(each) ?? 0) + 1);
  return [...times].map(([each, n]) => (n === 1 ? each : `${each} (${n} times)`));
}

/** What taking back would come to, over all its goes. */
export class Tally {
  readonly #catalogue: Catalogue;
  #effects = 0;
  #signals = 0;
  readonly #subjects = new Set<number>();
  readonly #changes: Record<string, number> = {};
  readonly #samples: TakeBackAnswer['samples'] = [];
  readonly #stays: TakeBackAnswer['stays'] = [];
  #stay = 0;

  constructor(catalogue: Catalogue) {
    this.#catalogue = catalogue;
  }

  async add(sql: Sql, { signals, worked, stays }: TakenBack): Promise<void> {
    this.#signals += signals;
    for (const { state, effects, done } of worked) {
      if (effects.length > 0) this.#subjects.add(state.id);
      this.#effects += done.length;
      countChanges(effects, this.#changes);
    }
    this.#stay += stays.length;
    const changed = worked.filter(({ effects }) => effects.length > 0);
    await this.#tellSamples(sql, changed.slice(0, SAMPLES - this.#samples.length));
    this.#stays.push(...(await staysOf(sql, this.#catalogue, stays.slice(0, STAYS_TOLD - this.#stays.length))));
  }

  async #tellSamples(sql: Sql, worked: TakenBack['worked']): Promise<void> {
    if (worked.length === 0) return;
    const names = await sql.query<{ id: number; uid: string; name: string; company: boolean }>(
      `select id, uid, name, false as company from contact where id = any($1::bigint[])
       union all select id, uid, name, true from company where id = any($1::bigint[])`,
      [worked.map(({ state }) => state.id)],
    );
    for (const { state, effects } of worked) {
      const named = names.find((each) => each.id === state.id);
      this.#samples.push({
        contact: named && !named.company ? named.uid : null,
        name: named?.name ?? null,
        changes: withTimes(effects.filter((effect) => effect.kind !== 'firing').map((effect) => briefWords(effect, this.#catalogue))),
      });
    }
  }

  answer(): TakeBackAnswer {
    return {
      rehearsed: true,
      signals: this.#signals,
      effects: this.#effects,
      subjects: this.#subjects.size,
      changes: this.#changes,
      samples: this.#samples,
      stays: this.#stays,
      stay: this.#stay,
      run: null,
    };
  }
}

/** What stays, and why. */
export async function staysOf(sql: Sql, catalogue: Catalogue, stays: TakenBack['stays']): Promise<TakeBackAnswer['stays']> {
  if (stays.length === 0) return [];
  const rows = await sql.query<StoredEffect>(`select ${EFFECT_COLUMNS} from ${EFFECT_TABLES} where l.id = any($1::bigint[])`, [
    stays.map((each) => each.entry),
  ]);
  const byId = new Map(rows.map((row) => [row.id, row]));
  return stays.map(({ entry, why }) => {
    const row = byId.get(entry);
    return {
      contact: row?.contact_uid ?? null,
      name: row?.subject_name ?? null,
      what: row ? effectWords(row, catalogue) : 'an effect',
      why,
    };
  });
}
