import { Injectable } from '@nestjs/common';
import { Moment, orThrow, quoted, storageOf, within, type Catalogue } from '@eager-sieve/core';
import { type ChangeMany, type ContactChange, type RuleRehearsal, type SweepRunView } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { changesOf } from '../engine/arrivals';
import { type EditPayload } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { faulty } from '../http/problem';
import { BundlesService } from '../rules/bundles.service';
import { rehearseRun, type Candidate } from '../rules/dry-passes';
import { SweepsService } from '../rules/sweeps.service';
import { DefinitionStore } from '../settings/definition-store';
import { knownTo } from './prepare-contacts';
import { readChange } from './read-write';

/** One change by hand of many contacts: rehearsed, then made by a run that can be ended on the way and taken back as a whole. */
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
  async rehearse({ who, change }: ChangeMany, by: string): Promise<RuleRehearsal> {
    return this.database.snapshot(async (sql) => {
      const { compiled } = await this.store.current(sql);
      const { catalogue } = compiled;
      const now = this.clock.now();
      const edit = await read(sql, change, catalogue, by);
      const cause = { kind: 'sweep', ref: 'rehearsal' } as const;
      const asked = await this.bundles.candidates(sql, compiled, who, new Moment(now, catalogue.zone));
      return rehearseRun(sql, {
        compiled,
        arrival: { kind: 'edit', changes: changesOf({ ...edit, cause }, catalogue, now, new Map()), cause },
        now,
        candidates: await sql.query<Candidate>(asked.text, asked.values),
        words: ['it is asked of', 'would be changed'],
      });
    });
  }

  start({ who, change }: ChangeMany, by: string): Promise<SweepRunView> {
    return this.sweeps.startChange(by, async (sql, compiled, moment) => ({
      edit: await read(sql, change, compiled.catalogue, by),
      what: changeWords(change, compiled.catalogue),
      candidates: await this.bundles.candidates(sql, compiled, who, moment),
    }));
  }
}

async function read(sql: Sql, change: ContactChange, catalogue: Catalogue, by: string): Promise<Omit<EditPayload, 'cause'>> {
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
  const edit = orThrow(within(['change'], readChange(change, catalogue, await knownTo(sql, [change]))));
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
