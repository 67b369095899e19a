import { Injectable } from '@nestjs/common';
import { type About, type NewNote, type NoteView } from '@eager-sieve/contracts';
import { In } from 'typeorm';
import { type Own } from '../contacts/own';
import { Database } from '../database/database';
import { Note } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { notFound, ProblemError } from '../http/problem';
import { AboutService } from './about.service';

/** What people write down about contacts and companies. Notes go with whoever they are about when that is erased. */
@Injectable()
export class NotesService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly about: AboutService,
  ) {}

  /** Of a contact also those about whoever was merged into it. */
  async list(about: About, own: Own): Promise<NoteView[]> {
    const notes = await this.database.read(Note).find({
      where: { contactId: In([...(await this.about.idsOf(this.database, about, own))]) },
      order: { madeAt: 'desc', id: 'desc' },
    });
    return notes.map(viewOf);
  }

  async add({ text, ...about }: NewNote, by: string, own: Own): Promise<NoteView> {
    return this.database.transaction(async (sql) => {
      const contactId = await this.about.idOf(sql, about, own);
      const madeAt = new Date(this.clock.now());
      return viewOf(await sql.table(Note).save({ contactId, text, byRef: by, madeAt, changedAt: null }));
    });
  }

  async change(id: number, text: string, by: string): Promise<NoteView> {
    return this.database.transaction(async (sql) => {
      const notes = sql.table(Note);
      const note = await notes.findOne({ where: { id }, lock: { mode: 'pessimistic_write' } });
      if (!note) throw notFound('note');
      if (note.byRef !== by) throw othersOwn();
      return viewOf(await notes.save({ ...note, text, changedAt: new Date(this.clock.now()) }));
    });
  }

  /** @param any also one of somebody else */
  async remove(id: number, by: string, any: boolean): Promise<void> {
    await this.database.transaction(async (sql) => {
      const note = await sql.read(Note).findOneBy({ id });
      if (!note) throw notFound('note');
      if (note.byRef !== by && !any) throw othersOwn();
      await sql.table(Note).delete({ id });
    });
  }
}

const othersOwn = (): ProblemError => new ProblemError(403, 'note.others', 'Only whoever wrote this note can change it.');

const viewOf = ({ id, text, byRef: by, madeAt, changedAt }: Note): NoteView => ({
  ...{ id, text, by },
  at: madeAt.toISOString(),
  changedAt: changedAt?.toISOString() ?? null,
});
