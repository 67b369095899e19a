import { Injectable } from '@nestjs/common';
import { type SavedView, type SaveView } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { SavedViewRow } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { notFound, ProblemError } from '../http/problem';

/** What people narrow lists to, kept under names: for themselves or for all. */
@Injectable()
export class ViewsService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  async list(place: string, by: string): Promise<SavedView[]> {
    const rows = await this.database.read(SavedViewRow).find({
      where: [
        { place, byRef: by },
        { place, forAll: true },
      ],
      order: { name: 'asc', id: 'asc' },
    });
    return rows.map(viewOf);
  }

  async save({ place, name, query, forAll }: SaveView, by: string): Promise<SavedView> {
    return this.database.transaction(async (sql) => {
      const views = sql.table(SavedViewRow);
      const before = await views.findOneBy({ place, byRef: by, name });
      return viewOf(await views.save({ ...before, place, name, query, forAll, byRef: by, madeAt: new Date(this.clock.now()) }));
    });
  }

  /** @param any also one of somebody else */
  async remove(id: number, by: string, any: boolean): Promise<void> {
    await this.database.transaction(async (sql) => {
      const view = await sql.read(SavedViewRow).findOneBy({ id });
      if (!view || (view.byRef !== by && !view.forAll && !any)) throw notFound('view');
      if (view.byRef !== by && !any) throw new ProblemError(403, 'view.others', 'Only whoever kept this view, or an admin, can forget it.');
      await sql.table(SavedViewRow).delete({ id });
    });
  }
}

const viewOf = ({ id, name, query, byRef: by, forAll }: SavedViewRow): SavedView => ({ id, name, query, by, forAll });
