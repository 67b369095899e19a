import { Injectable } from '@nestjs/common';
import { type LedgerRow, type Timeline } from '@eager-sieve/contracts';
import { stringify } from 'csv-stringify';
import { type Response } from 'express';
import { Database } from '../database/database';
import { AuditService } from '../ledger/audit.service';
import { LedgerService } from '../ledger/ledger.service';
import { AttachmentsService } from '../tasks/attachments.service';
import { NotesService } from '../tasks/notes.service';
import { TasksService } from '../tasks/tasks.service';
import { WorklistsService } from '../tasks/worklists.service';
import { EVERYONES } from './own';
import { ContactsService } from './contacts.service';

const AT_ONCE = 200;

/** Everything that is known of one contact, to be handed to them: as it is kept, or line by line. */
@Injectable()
export class PersonalDataService {
  constructor(
    private readonly database: Database,
    private readonly contacts: ContactsService,
    private readonly ledger: LedgerService,
    private readonly notes: NotesService,
    private readonly tasks: TasksService,
    private readonly worklists: WorklistsService,
    private readonly attachments: AttachmentsService,
    private readonly audit: AuditService,
  ) {}

  /** Writes it page by page, as it is read. */
  async write(named: string, format: 'json' | 'csv', by: string, response: Response): Promise<void> {
    const contact = await this.contacts.view(named, EVERYONES);
    const { id } = await this.contacts.find(this.database, named);
    const notes = await this.notes.list({ contact: contact.id }, EVERYONES);
    const files = await this.attachments.list({ contact: contact.id }, EVERYONES);
    const tasks = await this.#tasks(contact.id);
    const worklists = await this.worklists.wordsAbout(id);
    await this.audit.record('personal data exported', { format: format === 'csv' ? 'CSV' : 'JSON' }, by);
    response.setHeader('Content-Disposition', `attachment; filename="${contact.id}.${format}"`);
    const signals = pagesOf<Timeline['signals'][number]>(async (after) => {
      const page = await this.contacts.signals(contact.id, { limit: AT_ONCE, after }, EVERYONES);
      return { items: page.signals, after: page.after };
    });
    const effects = pagesOf<LedgerRow>(async (after) => {
      const page = await this.ledger.list({ subject: id }, { limit: AT_ONCE, after }, EVERYONES);
      return { items: page.rows, after: page.after };
    });
    if (format === 'json') {
      response.type('application/json; charset=utf-8');
      response.write(
        `{"contact":${JSON.stringify(contact)},"notes":${JSON.stringify(notes)},"files":${JSON.stringify(files)},"tasks":${JSON.stringify(tasks)},"worklists":${JSON.stringify(worklists)},"signals":[`,
      );
      await writeItems(response, signals, ({ did: _did, ...signal }) => JSON.stringify(signal));
      response.write('],"ledger":[');
      await writeItems(response, effects, (row) => JSON.stringify(row));
      response.end(']}\n');
      return;
    }
    response.type('text/csv; charset=utf-8');
    const csv = stringify({ header: true, columns: ['what', 'at', 'name', 'value'], escape_formulas: true });
    csv.pipe(response);
    const put = (what: string, at: string | null, name: string, value: string | null): void => void csv.write({ what, at, name, value });
    put('contact', contact.added, contact.name, contact.email);
    for (const before of contact.formerAddresses) put('address before', null, contact.name, before);
    for (const { name, shown } of contact.fields) put('fact', null, name, shown);
    for (const { key, since, reasons } of contact.tags) put('tag', since, key, reasons.map(({ words }) => words).join('; '));
    for (const { channel, state, at } of contact.consent) put('consent', at, channel, state);
    for (const { name, points, bandName } of contact.scores) put('score', null, name, `${points} ${bandName}`);
    if (contact.stage) put('stage', contact.stage.since, contact.stage.name, null);
    for (const { name, since } of contact.audiences) put('audience', since, name, null);
    for (const { name, outsideId, stageName, opened } of contact.deals) put('deal', opened, name || outsideId, stageName);
    for (const { text, by: who, at } of notes) put('note', at, who, text);
    for (const { name, by: who, at } of files) put('file', at, who, name);
    for (const { title, due, done } of tasks) put('task', due, title, done ? 'done' : 'open');
    for (const { name, by: who, at, state, note } of worklists) put('worklist', at, `${name}: ${state}${who ? `, ${who}` : ''}`, note);
    for await (const { time, typeName, summary } of signals) put('signal', time, typeName, summary);
    for await (const { at, words, cause } of effects) put('done', at, words, cause.words);
    csv.end();
  }

  async #tasks(contact: string) {
    const both = await Promise.all((['open', 'done'] as const).map((state) => this.tasks.list({ state, contact, limit: 500 }, EVERYONES)));
    return both.flatMap((page) => page.tasks);
  }
}

/** All of a list that is read page by page. */
async function* pagesOf<Item>(
  read: (after: string | undefined) => Promise<{ readonly items: readonly Item[]; readonly after: string | null }>,
): AsyncGenerator<Item> {
  for (let after: string | undefined; ;) {
    const page = await read(after);
    yield* page.items;
    if (page.after === null) return;
    after = page.after;
  }
}

async function writeItems<Item>(response: Response, items: AsyncIterable<Item>, written: (item: Item) => string): Promise<void> {
  let isFirst = true;
  for await (const item of items) {
    response.write(`${isFirst ? '' : ','}${written(item)}`);
    isFirst = false;
  }
}
