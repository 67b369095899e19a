import { Controller, Req, Res } from '@nestjs/common';
import { WORKLIST_FORMATS, type Sent } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { Handles, SentHere } from '../http/route';
import { flowing } from '../http/uploads';
import { AuditService } from '../ledger/audit.service';
import { CallerIs, callerRef, may, ownOf, type Caller } from '../settings/access';
import { AttachmentsService } from './attachments.service';
import { NotesService } from './notes.service';
import { writeWorklist } from './worklist-file';
import { WorklistsService, type Worker } from './worklists.service';

const workerOf = (caller: Caller): Worker => ({ by: callerRef(caller), own: ownOf(caller) });

@Controller()
export class WorklistsController {
  constructor(
    private readonly lists: WorklistsService,
    private readonly noted: NotesService,
    private readonly attached: AttachmentsService,
    private readonly audit: AuditService,
  ) {}

  @Handles('worklists')
  async list(@CallerIs() caller: Caller) {
    return { worklists: await this.lists.list(workerOf(caller)) };
  }

  @Handles('makeWorklist')
  make(@SentHere() { body }: Sent<'makeWorklist'>, @CallerIs() caller: Caller) {
    return this.lists.make(body, workerOf(caller));
  }

  @Handles('worklist')
  entries(@SentHere() { params, query }: Sent<'worklist'>, @CallerIs() caller: Caller) {
    return this.lists.entries(params.id, query, workerOf(caller));
  }

  @Handles('worklistFile')
  async file(
    @SentHere() { params, query: { format } }: Sent<'worklistFile'>,
    @CallerIs() caller: Caller,
    @Res() response: Response,
  ): Promise<void> {
    const read = (after?: string) => this.lists.entries(params.id, { limit: 500, after }, workerOf(caller));
    // What is wrong with it is said before anything is written.
    const first = await read();
    await this.audit.record('worklist exported', { name: first.worklist.name, format: format.toUpperCase() }, callerRef(caller));
    response.type(`${WORKLIST_FORMATS[format]}; charset=utf-8`);
    response.setHeader('Content-Disposition', `attachment; filename="worklist.${format}"`);
    await writeWorklist(response, { format, catalogue: await this.lists.catalogue(), first, read });
  }

  @Handles('removeWorklist')
  remove(@SentHere() { params }: Sent<'removeWorklist'>, @CallerIs() caller: Caller) {
    return this.lists.remove(params.id, callerRef(caller), may(caller, 'settings:write'));
  }

  @Handles('nextEntry')
  next(@SentHere() { params, body }: Sent<'nextEntry'>, @CallerIs() caller: Caller) {
    return this.lists.next(params.id, body.after, workerOf(caller));
  }

  @Handles('entry')
  entry(@SentHere() { params }: Sent<'entry'>, @CallerIs() caller: Caller) {
    return this.lists.entry(params.id, params.place, workerOf(caller));
  }

  @Handles('markEntry')
  mark(@SentHere() { params, body }: Sent<'markEntry'>, @CallerIs() caller: Caller) {
    return this.lists.mark(params.id, params.place, body, workerOf(caller));
  }

  @Handles('notes')
  async notes(@SentHere() { query }: Sent<'notes'>, @CallerIs() caller: Caller) {
    return { notes: await this.noted.list(query, ownOf(caller)) };
  }

  @Handles('addNote')
  addNote(@SentHere() { body }: Sent<'addNote'>, @CallerIs() caller: Caller) {
    return this.noted.add(body, callerRef(caller), ownOf(caller));
  }

  @Handles('changeNote')
  changeNote(@SentHere() { params, body }: Sent<'changeNote'>, @CallerIs() caller: Caller) {
    return this.noted.change(params.id, body.text, callerRef(caller));
  }

  @Handles('removeNote')
  removeNote(@SentHere() { params }: Sent<'removeNote'>, @CallerIs() caller: Caller) {
    return this.noted.remove(params.id, callerRef(caller), may(caller, 'settings:write'));
  }

  @Handles('attachments')
  async attachments(@SentHere() { query }: Sent<'attachments'>, @CallerIs() caller: Caller) {
    return { attachments: await this.attached.list(query, ownOf(caller)) };
  }

  @Handles('keepAttachment')
  keep(@SentHere() { query }: Sent<'keepAttachment'>, @Req() request: Request, @CallerIs() caller: Caller) {
    return this.attached.keep(query, flowing(request) as AsyncIterable<Buffer>, callerRef(caller), ownOf(caller));
  }

  /** A file is only ever saved, never shown: what is in it cannot act as a page of this server. */
  @Handles('attachment')
  async attachment(@SentHere() { params }: Sent<'attachment'>, @CallerIs() caller: Caller, @Res() response: Response): Promise<void> {
    const { name, bytes } = await this.attached.open(params.id, ownOf(caller));
    response.attachment(name).type('application/octet-stream').send(bytes);
  }

  @Handles('removeAttachment')
  removeAttachment(@SentHere() { params }: Sent<'removeAttachment'>, @CallerIs() caller: Caller) {
    return this.attached.remove(params.id, callerRef(caller), may(caller, 'settings:write'), ownOf(caller));
  }
}
