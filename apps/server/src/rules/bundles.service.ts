import { Injectable } from '@nestjs/common';
import { Moment, toSql, type Compiled } from '@eager-sieve/core';
import { type BundleRun, type RuleRehearsal } from '@eager-sieve/contracts';
import { readGroup } from '../audiences/questions';
import { STANDING } from '../audiences/scan';
import { ContactsService } from '../contacts/contacts.service';
import { Database, type Sql } from '../database/database';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { peopleWithAccess } from '../settings/known-people';
import { type CandidatesSql } from './candidates';
import { rehearseRun, runOf, type Candidate } from './dry-passes';

/** Bundles that are run by hand. */
@Injectable()
export class BundlesService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly contacts: ContactsService,
  ) {}

  /** On whom it is run, contacts of a company together. */
  async candidates(sql: Sql, compiled: Compiled, who: BundleRun, moment: Moment): Promise<CandidatesSql> {
    if ('contact' in who) {
      const { id } = await this.contacts.find(sql, who.contact);
      return { text: 'select c.id, c.company_id from contact c where c.id = $1', values: [id] };
    }
    if ('contacts' in who)
      return {
        text: `select c.id, c.company_id from contact c where ${STANDING.contact} and c.uid = any($1::uuid[]) order by c.company_id nulls last, c.id`,
        values: [who.contacts],
      };
    const { node } = readGroup(who.condition, compiled, 'contact', await peopleWithAccess(sql));
    const { text, values } = toSql(node, moment, 1, 'contact');
    return {
      text: `select c.id, c.company_id from contact c where ${STANDING.contact} and ${text} order by c.company_id nulls last, c.id`,
      values,
    };
  }

  /** What it would do, by the passes that would do it. */
  async rehearse(key: string, who: BundleRun): Promise<RuleRehearsal> {
    return this.database.snapshot(async (sql) => {
      const { compiled } = await this.store.current(sql);
      const { catalogue } = compiled;
      const bundle = catalogue.find('bundle', key);
      if (!bundle) throw notFound('bundle');
      const now = this.clock.now();
      const asked = await this.candidates(sql, compiled, who, new Moment(now, catalogue.zone));
      const candidates = await sql.query<Candidate>(asked.text, asked.values);
      return rehearseRun(sql, { compiled, arrival: runOf(bundle.id), now, candidates, words: ['it is run on', 'would be changed'] });
    });
  }
}
