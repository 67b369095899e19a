import { randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { isStorable, keyFrom } from '@eager-sieve/core';
import { type FileView } from '@eager-sieve/contracts';
import { PublicAddress } from '../campaigns/public-address';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { faulty, notFound } from '../http/problem';
import { wholeFile } from '../http/uploads';
import { writeSetting } from '../ledger/settings-ledger';

interface Stored {
  readonly id: number;
  readonly key: string;
  readonly name: string;
  readonly size: number;
  readonly downloads: number;
  readonly made_at: Date;
  readonly made_by: string;
}

/** Files that are kept to be downloaded by a link. */
@Injectable()
export class FilesService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly address: PublicAddress,
  ) {}

  async list(): Promise<readonly FileView[]> {
    const rows = await this.database.query<Stored>(
      'select id, key, name, length(bytes) as size, downloads, made_at, made_by from stored_file order by id desc',
    );
    return rows.map((row) => this.#view(row));
  }

  async keep(name: string, file: AsyncIterable<Buffer>, by: string): Promise<FileView> {
    if (!isStorable(name) || /[\\/]/.test(name))
      throw faulty([{ path: ['name'], code: 'file.name', expected: 'a name of a file, without a folder' }]);
    const bytes = await wholeFile(file);
    const key = `${keyFrom(name.replace(/\.\w+$/, ''), new Set())}-${randomBytes(6).toString('hex')}`;
    return this.database.transaction(async (sql) => {
      const [row] = await sql.query<Stored>(
        `insert into stored_file (key, name, bytes, made_at, made_by) values ($1, $2, $3, $4, $5)
         returning id, key, name, length(bytes) as size, downloads, made_at, made_by`,
        [key, name, bytes, iso(this.clock.now()), by],
      );
      await writeSetting(sql, 'file added', { name }, by, this.clock.now());
      return this.#view(row as Stored);
    });
  }

  async remove(id: number, by: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      const [gone] = await sql.query<{ name: string }>('delete from stored_file where id = $1 returning name', [id]);
      if (!gone) throw notFound('file');
      await writeSetting(sql, 'file removed', { name: gone.name }, by, this.clock.now());
    });
  }

  /** @throws ProblemError 404 */
  async open(key: string): Promise<{ readonly name: string; readonly bytes: Buffer }> {
    const [row] = await this.database.query<{ name: string; bytes: Buffer }>('select name, bytes from stored_file where key = $1', [key]);
    if (!row) throw notFound('file');
    return row;
  }

  /** Counts a download. */
  count(sql: Sql, key: string): Promise<unknown> {
    return sql.query('update stored_file set downloads = downloads + 1 where key = $1', [key]);
  }

  #view({ id, key, name, size, downloads, made_at: madeAt, made_by: by }: Stored): FileView {
    return { id, name, url: `${this.address.url}/d/${key}`, bytes: size, downloads, madeAt: madeAt.toISOString(), by };
  }
}
