import { type ContactColumns } from '@eager-sieve/core';
import { heldOf, settle } from '../../../packages/core/src/testing/held';
import { FollowedContacts } from '../src/counting/followed-contacts';
import { type Database } from '../src/database/database';
import { DefinitionStore } from '../src/settings/definition-store';

const always = (): boolean => true;

/** The columns of the counting index beside a server under test: brought up again and again, they have to come to what a fresh load comes to. */
export class Followed {
  readonly #database: Database;
  readonly #store = new DefinitionStore();
  #contacts: FollowedContacts | undefined;
  #before: Promise<unknown> = Promise.resolve();

  constructor(database: Database) {
    this.#database = database;
  }

  /** One after the other, as the lock of the index sees to it. */
  bringUp(): Promise<ContactColumns> {
    const next = this.#before.catch(() => undefined).then(() => this.#bringUp());
    this.#before = next;
    return next;
  }

  async #bringUp(): Promise<ContactColumns> {
    const contacts = (this.#contacts ??= await this.#loaded());
    await this.#database.snapshot(async (sql) => {
      const { compiled } = await this.#store.current(sql);
      if (!contacts.readsAlike(compiled.catalogue)) return void (this.#contacts = undefined);
      await contacts.follow(sql);
      await contacts.bringUp(sql, compiled.catalogue, contacts.behind);
    });
    return this.#contacts ? contacts.sets.columns : this.#bringUp();
  }

  /** Each contact of whom the columns hold something else than what a fresh load comes to. */
  async differences(): Promise<readonly object[]> {
    const [here, fresh] = [await this.bringUp(), (await this.#loaded()).sets.columns];
    for (const columns of [here, fresh]) settle(columns);
    const rows = await this.#database.query<{ id: number }>('select id from definition where not deleted');
    const defined = new Set(rows.map(({ id }) => String(id)));
    const isDefined = (key: string): boolean => !/^\d+$/.test(key) || defined.has(key);
    const ids = new Set([...here.newestFirst(), ...fresh.newestFirst()]);
    return [...ids].flatMap((id) => {
      const [held, expected] = [JSON.stringify(heldOf(here, id, isDefined)), JSON.stringify(heldOf(fresh, id, isDefined))];
      return held === expected ? [] : [{ id, held, expected }];
    });
  }

  async #loaded(): Promise<FollowedContacts> {
    const contacts = new FollowedContacts(this.#database, this.#store, undefined);
    await contacts.load(this.#database, always);
    return contacts;
  }
}
