import { Injectable } from '@nestjs/common';
import { withTagSplit } from '@eager-sieve/core';
import { type ReplaceTag, type TagReplacementRehearsal } from '@eager-sieve/contracts';
import { ConditionsService } from '../audiences/conditions.service';
import { Database } from '../database/database';
import { faulty } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { DefinitionsService } from '../settings/definitions.service';
import { replacing, tagsIn, tagsOf } from './tag-replacements.service';

/** What replacing a tag by another, or splitting it, would do. */
@Injectable()
export class TagRehearsalsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly definitions: DefinitionsService,
    private readonly conditions: ConditionsService,
  ) {}

  async rehearse(fromKey: string, wanted: ReplaceTag, by: string): Promise<TagReplacementRehearsal> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const { from, into, parts } = tagsOf(catalogue, fromKey, wanted);
    const changed = withTagSplit(catalogue, from.id, tagsIn(parts), into.id);
    const answer = await this.definitions.put(replacing(catalogue, from, into, parts), by, true);
    if (answer.refused.length > 0)
      throw faulty(
        answer.refused.flatMap((each) => each.faults),
        'These two cannot stand for each other yet.',
      );
    const [row] = await this.database.query<{ people: number; both: number }>(
      `select count(*)::int as people,
              count(*) filter (where exists (select from contact_tag o where o.contact_id = t.contact_id and o.tag_id = $2))::int as both
         from contact_tag t where t.tag_id = $1`,
      [from.id, into.id],
    );
    const people = row?.people ?? 0;
    return {
      ...{ people, both: row?.both ?? 0, definitions: changed.map(({ kind, key, name }) => ({ kind, key, name })) },
      parts: wanted.parts.length === 0 ? [] : await this.#split(fromKey, wanted, people),
    };
  }

  /** How many would get which of the tags that one is split into. */
  async #split(from: string, { into, parts }: ReplaceTag, people: number): Promise<TagReplacementRehearsal['parts']> {
    const has = { kind: 'tag' as const, tag: from, op: 'has' as const };
    const counts: { tag: string; people: number }[] = [];
    for (const [index, part] of parts.entries()) {
      const earlier = { match: 'none' as const, of: parts.slice(0, index).map((each) => each.if) };
      const condition = { match: 'all' as const, of: [has, part.if, ...(index > 0 ? [earlier] : [])] };
      const { count } = await this.conditions.count({ condition, of: 'contact', sieve: false });
      counts.push({ tag: part.tag, people: count });
    }
    return [...counts, { tag: into, people: people - counts.reduce((sum, each) => sum + each.people, 0) }];
  }
}
