import { Injectable } from '@nestjs/common';
import { Moment, orThrow, quoted, storageOf, toSql, within, type Catalogue, type Compiled } from '@eager-sieve/core';
import { type ChangeMany, type ContactChange, type RuleRehearsal, type SweepRunView } from '@eager-sieve/contracts';
import { readGroup } from '../audiences/questions';
import { STANDING } from '../audiences/scan';
import { readCompanyChange } from '../companies/prepare-companies';
import { Database, type Sql } from '../database/database';
import { changesOf } from '../engine/arrivals';
import { type EditPayload } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { faulty } from '../http/problem';
import { BundlesService } from '../rules/bundles.service';
import { type CandidatesSql } from '../rules/candidates';
import { rehearseRun, type Candidate } from '../rules/dry-passes';
import { SweepsService } from '../rules/sweeps.service';
import { DefinitionStore } from '../settings/definition-store';
import { peopleWithAccess } from '../settings/known-people';
import { knownTo } from './prepare-contacts';
import { readChange } from './read-write';

/** One change by hand of many contacts or companies: rehearsed, then made by a run that can be ended on the way and taken back as a whole. */
@Injectable()
export class ChangesOfManyService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly bundles: BundlesService,
    private readonly sweeps: SweepsService,
  ) {}

  /** What it would do, by the passes that would do it. */
  async rehearse(asked: ChangeMany, by: string): Promise<RuleRehearsal> {
    return this.database.snapshot(async (sql) => {
      const { compiled } = await this.store.current(sql);
      const { catalogue } = compiled;
      const now = this.clock.now();
      const edit = await read(sql, asked, catalogue, by);
      const cause = { kind: 'sweep', ref: 'rehearsal' } as const;
      const whom = await this.#candidates(sql, compiled, asked, new Moment(now, catalogue.zone));
      return rehearseRun(sql, {
        compiled,
        arrival: { kind: 'edit', changes: changesOf({ ...edit, cause }, catalogue, now, new Map()), cause },
        now,
        candidates: await sql.query<Candidate>(whom.text, whom.values),
        words: ['it is asked of', 'would be changed'],
      });
    });
  }

  start(asked: ChangeMany, by: string): Promise<SweepRunView> {
    return this.sweeps.startChange(by, async (sql, compiled, moment) => ({
      of: asked.of,
      edit: await read(sql, asked, compiled.catalogue, by),
      what: changeWords(asked.change, compiled.catalogue),
      candidates: await this.#candidates(sql, compiled, asked, moment),
    }));
  }

  async #candidates(sql: Sql, compiled: Compiled, asked: ChangeMany, moment: Moment): Promise<CandidatesSql> {
    if (asked.of === 'contact') return this.bundles.candidates(sql, compiled, asked.who, moment);
    const meant =
      'companies' in asked.who
        ? { text: 'c.uid = any($1::uuid[])', values: [asked.who.companies] }
        : toSql(readGroup(asked.who.condition, compiled, 'company', await peopleWithAccess(sql)).node, moment, 1, 'company');
    return {
      text: `select c.id, c.id as company_id from company c where ${STANDING.company} and ${meant.text} order by c.id`,
      values: meant.values,
    };
  }
}

async function read(sql: Sql, { of, change }: ChangeMany, catalogue: Catalogue, by: string): Promise<Omit<EditPayload, 'cause'>> {
  if (
    Object.values(change).every(
      (part) => part === undefined || (typeof part === 'object' && part !== null && Object.keys(part).length === 0),
    )
  )
    throw faulty([{ path: ['change'], code: 'change.nothing', expected: 'something to change' }]);
  const shared = Object.entries(change.fields ?? {}).filter(([key, value]) => value !== null && catalogue.find('field', key)?.body.unique);
  if (shared.length > 0)
    throw faulty(
      shared.map(([key]) => ({
        path: ['change', 'fields', key],
        code: 'field.shared',
        expected: 'nothing: no two have the same, so many cannot be given one value',
      })),
    );
  const checked = of === 'company' ? readCompanyChange(change, catalogue) : readChange(change, catalogue, await knownTo(sql, [change]));
  const edit = orThrow(within(['change'], checked));
  return { ...edit, reason: { kind: 'hand', ref: by } };
}

/** What is changed, in words: “add the tag glaze.buyer; set the stage to regular”. */
export function changeWords({ fields, tags, consent, stage, owner, lists }: ContactChange, catalogue: Catalogue): string {
  const isOff = (value: unknown): boolean => value === false || value === null;
  const shown = (key: string, value: unknown): string => {
    const options = catalogue.find('field', key)?.body.options;
    return [value]
      .flat()
      .map((each) => quoted(options?.find((option) => option.key === each)?.name ?? String(each)))
      .join(', ');
  };
  return [
    ...Object.entries(tags ?? {}).map(([key, value]) => `${isOff(value) ? 'remove' : 'add'} the tag ${key}`),
    ...Object.entries(fields ?? {}).map(([key, value]) => {
      const name = catalogue.find('field', key)?.name ?? key;
      if (value === null) return `clear ${name}`;
      // This stays when whoever it was done to is erased, so it says no text that somebody wrote.
      const body = catalogue.find('field', key)?.body;
      return body && storageOf[body.type] === 'text' ? `set ${name}` : `set ${name} to ${shown(key, value)}`;
    }),
    ...(stage === undefined
      ? []
      : [stage === null ? 'take off the ladder' : `set the stage to ${catalogue.find('stage', stage)?.name ?? stage}`]),
    ...(owner === undefined ? [] : [owner === null ? 'take the owner away' : `hand to ${owner}`]),
    ...Object.entries(lists ?? {}).map(
      ([key, on]) => `${on ? 'put on' : 'take off'} the list ${catalogue.find('audience', key)?.name ?? key}`,
    ),
    ...Object.entries(consent ?? {}).map(([channel, state]) => `set consent to ${channel} to ${state}`),
  ].join('; ');
}
