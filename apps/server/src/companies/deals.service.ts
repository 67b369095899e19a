import { Injectable } from '@nestjs/common';
import { type DealBands, type PutDeals, type PutDealsAnswer } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { EditsService, type EditCause } from '../engine/edits.service';
import { notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { prepareDeals } from './prepare-deals';

/** Deals. Each has a holder, a contact or else a company, whose passes write it. */
@Injectable()
export class DealsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly edits: EditsService,
  ) {}

  /** The number of deals in each band of a scorecard of deals. */
  async bands(scorecard: string): Promise<DealBands> {
    const { compiled } = await this.store.current(this.database);
    const card = compiled.catalogue.find('scorecard', scorecard);
    if (card?.body.of !== 'deal') throw notFound('scorecard of deals');
    const rows = await this.database.query<{ band: string; n: number }>(
      `select s.band, count(*)::int as n from deal_score s join deal d on d.id = s.deal_id and d.holder_id = s.holder_id
        where s.scorecard_id = $1 group by s.band`,
      [card.id],
    );
    return { of: rows.reduce((sum, row) => sum + row.n, 0), bands: Object.fromEntries(rows.map((row) => [row.band, row.n])) };
  }

  /** Makes or changes deals, and waits until that has been worked. */
  async put(request: PutDeals, cause: EditCause): Promise<PutDealsAnswer> {
    const results = await this.edits.submit(cause, (context) => prepareDeals(context, request, cause));
    return { results: results.map(({ uid, ...result }) => ({ ...result, deal: uid })) };
  }
}
