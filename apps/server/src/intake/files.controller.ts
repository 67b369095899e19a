import { Controller, Req, Res } from '@nestjs/common';
import { Throttle } from '@nestjs/throttler';
import { type Sent } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { isFollowed } from '../campaigns/followed';
import { Handles, SentHere } from '../http/route';
import { flowing } from '../http/uploads';
import { CallerIs, callerRef, type Caller } from '../settings/access';
import { FilesService } from './files.service';
import { SiteService } from './site.service';

const DOWNLOADS_A_MINUTE = Number(process.env['SIEVE_DOWNLOADS_A_MINUTE'] ?? 60);

@Controller()
export class FilesController {
  constructor(private readonly files: FilesService) {}

  @Handles('files')
  list() {
    return this.files.list();
  }

  @Handles('keepFile')
  keep(@SentHere() { query }: Sent<'keepFile'>, @Req() request: Request, @CallerIs() caller: Caller) {
    return this.files.keep(query.name, flowing(request) as AsyncIterable<Buffer>, callerRef(caller));
  }

  @Handles('removeFile')
  remove(@SentHere() { params }: Sent<'removeFile'>, @CallerIs() caller: Caller) {
    return this.files.remove(params.id, callerRef(caller));
  }
}

/** Where people download. */
@Controller()
@Throttle({ default: { limit: DOWNLOADS_A_MINUTE, ttl: 60_000 } })
export class DownloadsController {
  constructor(
    private readonly files: FilesService,
    private readonly site: SiteService,
  ) {}

  /** A file is only ever saved, never shown: what is in it cannot act as a page of this server. */
  @Handles('download')
  async download(@SentHere() { params, query }: Sent<'download'>, @Req() request: Request, @Res() response: Response): Promise<void> {
    const { name, bytes } = await this.files.open(params.key);
    if (isFollowed(request)) await this.site.downloaded(query, name, (sql) => this.files.count(sql, params.key));
    response.attachment(name).setHeader('Cache-Control', 'no-store').type('application/octet-stream').send(bytes);
  }
}
