import { Controller, Get } from '@nestjs/common';
import { Database } from '../database/database';
import { Requires } from '../settings/access';

@Controller('api/health')
export class HealthController {
  constructor(private readonly database: Database) {}

  /** The process answers. */
  @Get('live')
  @Requires('public')
  live(): { ok: true } {
    return { ok: true };
  }

  /** The process and its database answer. */
  @Get('ready')
  @Requires('public')
  async ready(): Promise<{ ok: true }> {
    await this.database.query('select 1 as one');
    return { ok: true };
  }
}
