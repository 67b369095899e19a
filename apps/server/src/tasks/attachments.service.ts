import { Injectable } from '@nestjs/common';
import { isStorable } from '@eager-sieve/core';
import { MAX_ATTACHMENTS, type About, type AttachmentView } from '@eager-sieve/contracts';
import { isOwn, type Own } from '../contacts/own';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { conflict, faulty, notFound, ProblemError } from '../http/problem';
import { wholeFile } from '../http/uploads';
import { AboutService } from './about.service';

interface Row {
  readonly id: number;
  readonly name: string;
  readonly size: number;
  readonly made_at: Date;
  readonly by_ref: string;
}
const COLUMNS = 'id, name, length(bytes) as size, made_at, by_ref';

/** Files that lie with a contact or a company. They are saved and handed out as they are, never opened here, and go with whoever they are about when that is erased. */
@Injectable()
export class AttachmentsService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly about: AboutService,
  ) {}

  /** The latest first. */
  async list(about: About, own: Own): Promise<AttachmentView[]> {
    const ids = await this.about.idsOf(this.database, about, own);
    const rows = await this.database.query<Row>(`select ${COLUMNS} from attachment where contact_id = any($1::bigint[]) order by id desc`, [
      ids,
    ]);
    return rows.map(viewOf);
  }

  async keep(
    { name, ...about }: About & { readonly name: string },
    file: AsyncIterable<Buffer>,
    by: string,
    own: Own,
  ): Promise<AttachmentView> {
    if (!isStorable(name) || /[\\/]/.test(name))
      throw faulty([{ path: ['name'], code: 'file.name', expected: 'a name of a file, without a folder' }]);
    const contact = await this.about.idOf(this.database, about, own);
    const bytes = await wholeFile(file);
    return this.database.transaction(async (sql) => {
      // Two at once do not both come to be the last that there is room for.
      await sql.query('select pg_advisory_xact_lock(hashtextextended($1, 0))', [`attachment ${contact}`]);
      const [counted] = await sql.query<{ n: number }>('select count(*)::int as n from attachment where contact_id = $1', [contact]);
      if ((counted?.n ?? 0) >= MAX_ATTACHMENTS)
        throw conflict('attachment.many', `There are ${MAX_ATTACHMENTS} files here already: remove one first.`);
      const [row] = await sql.query<Row>(
        `insert into attachment (contact_id, name, bytes, made_at, by_ref) values ($1, $2, $3, $4, $5) returning ${COLUMNS}`,
        [contact, name, bytes, iso(this.clock.now()), by],
      );
      return viewOf(row as Row);
    });
  }

  /** @throws ProblemError 404, also where it lies with somebody who is not theirs */
  async open(id: number, own: Own): Promise<{ readonly name: string; readonly bytes: Buffer }> {
    await this.#mustBeTheirs(this.database, id, own);
    const [row] = await this.database.query<{ name: string; bytes: Buffer }>('select name, bytes from attachment where id = $1', [id]);
    if (!row) throw notFound('file');
    return row;
  }

  /** @param any also one of somebody else */
  async remove(id: number, by: string, any: boolean, own: Own): Promise<void> {
    await this.database.transaction(async (sql) => {
      await this.#mustBeTheirs(sql, id, own);
      const [row] = await sql.query<{ by_ref: string }>('select by_ref from attachment where id = $1', [id]);
      if (!row) throw notFound('file');
      if (row.by_ref !== by && !any)
        throw new ProblemError(403, 'attachment.others', 'Only whoever added this file, or an admin, can remove it.');
      await sql.query('delete from attachment where id = $1', [id]);
    });
  }

  async #mustBeTheirs(sql: Sql, id: number, own: Own): Promise<void> {
    if (own === undefined) return;
    const [row] = await sql.query<{ owner: string | null }>(
      'select k.owner from attachment a join contact c on c.id = a.contact_id join contact k on k.id = coalesce(c.merged_into, c.id) where a.id = $1',
      [id],
    );
    if (!row || !isOwn(row.owner, own)) throw notFound('file');
  }
}

const viewOf = ({ id, name, size, made_at: madeAt, by_ref: by }: Row): AttachmentView => ({
  ...{ id, name, by },
  bytes: size,
  at: madeAt.toISOString(),
});
