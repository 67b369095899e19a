import { Controller } from '@nestjs/common';
import { Database } from '../database/database';
import { Handles } from './route';

@Controller()
export class HealthController {
  constructor(private readonly database: Database) {}

  @Handles('alive')
  alive(): { ok: true } {
    return { ok: true };
  }

  @Handles('ready')
  async ready(): Promise<{ ok: true }> {
    await this.database.query('select 1 as one');
    return { ok: true };
  }
}
