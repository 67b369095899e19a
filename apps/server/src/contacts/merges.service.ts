import { Injectable } from '@nestjs/common';
import { type MergeAnswer } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { eraseContact } from '../engine/erase';
import { mergeContacts, partContacts } from '../engine/merge';
import { ServerClock } from '../engine/server-clock';
import { DefinitionStore } from '../settings/definition-store';
import { ContactsService } from './contacts.service';

/** Merges, parts and erases contacts. */
@Injectable()
export class MergesService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly contacts: ContactsService,
  ) {}

  /** @param named both as the API names contacts: id, email address, or `id:` and an outside id */
  async merge(named: string, otherNamed: string, by: string): Promise<MergeAnswer> {
    const into = await this.contacts.find(this.database, named);
    const other = await this.contacts.find(this.database, otherNamed);
    return { merge: await mergeContacts(this.database, this.store, this.clock, into.uid, other.uid, by), contact: into.uid };
  }

  part(merge: number, by: string): Promise<void> {
    return partContacts(this.database, this.store, this.clock, merge, by);
  }

  async erase(named: string, by: string): Promise<void> {
    const { uid } = await this.contacts.find(this.database, named);
    await eraseContact(this.database, this.clock, uid, by);
  }
}
