import { Injectable } from '@nestjs/common';
import { Database } from '../database/database';
import { ServerClock } from '../engine/server-clock';
import { writeSetting } from './settings-ledger';

/** Keeps in the ledger what was taken out of the product, and by whom. */
@Injectable()
export class AuditService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  async record(
    verb:
      | 'members exported'
      | 'people exported'
      | 'companies exported'
      | 'deals exported'
      | 'worklist exported'
      | 'personal data exported'
      | 'answers exported'
      | 'ledger exported'
      | 'definitions exported'
      | 'message downloaded',
    what: object,
    by: string,
  ): Promise<void> {
    await this.database.transaction((sql) => writeSetting(sql, verb, what, by, this.clock.now()));
  }
}
