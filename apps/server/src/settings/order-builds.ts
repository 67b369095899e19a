import { bringingUp, referencesIn, type AnyDefinition, type Catalogue, type Compiled } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { orderBuild } from '../engine/builds';
import { writeEnded } from '../engine/feed';
import { rewriteDeals, rewriteLocalDays } from '../engine/rewrite';
import { deletes, meansSame, REACHES_ALL, same, type Planned } from './planned';

/** Whether what it means to contacts changed, and not only its name. */
const meansOtherwise = ({ kind, before, after }: Planned): boolean =>
  (kind === 'scorecard' || kind === 'audience' || kind === 'rule' || kind === 'map') &&
  !(before && meansSame(before.body, after.body) && before.retired === after.retired);

/** What bears on where contacts stand: what a stage asks of those who come to it does not, nor what messages say to whoever has a tag. */
function standingOf({ kind, body }: AnyDefinition): unknown {
  if (kind === 'stage' && 'position' in body) return { position: body.position };
  return kind === 'tag' ? { ...body, text: undefined, example: undefined, labels: undefined, splitInto: undefined } : body;
}

const isOn = (definition: AnyDefinition | undefined): boolean => definition?.kind === 'rule' && definition.body.on && !definition.retired;

/** Nobody is on a list that was made just now, so that nobody has to be brought up for it. */
const isNewList = ({ before, after }: Planned): boolean => !before && after.kind === 'audience' && after.body.kind === 'fixed';

/** Orders the build that brings everyone up after a change, where the change means anything to contacts. */
export async function orderBuilds(
  sql: Sql,
  planned: readonly Planned[],
  { before: was, after: compiled }: { readonly before: Compiled; readonly after: Compiled },
  zoneChanged: boolean,
  by: string,
  epoch: number,
  now: number,
): Promise<void> {
  const derived = new Set<number>(compiled.derived.map((each) => each.id));
  const changed = planned.filter((each) => meansOtherwise(each) && !isNewList(each));
  const everything = planned.some(({ kind, before, after }) =>
    before
      ? REACHES_ALL.includes(kind) && (!meansSame(standingOf(before), standingOf(after)) || deletes(after))
      : kind === 'signalType' || kind === 'stage',
  );
  if (zoneChanged) await rewriteLocalDays(sql, compiled.catalogue);
  if (planned.some(({ kind }) => kind === 'pipeline' || kind === 'field')) await rewriteDeals(sql, compiled.catalogue);
  const gone = changed.filter(({ after }) => !derived.has(after.id) && !compiled.isBroken(after.id)).map(({ after }) => after.id);
  if (gone.length > 0) {
    await sql.query('delete from membership where definition_id = any($1::int[])', [gone]);
    await sql.query('delete from contact_pin where audience_id = any($1::int[])', [gone]);
    await sql.query('delete from contact_score where scorecard_id = any($1::int[])', [gone]);
    await sql.query('delete from deal_score where scorecard_id = any($1::int[])', [gone]);
    await writeEnded(sql, gone, now);
  }
  const turnedOn = changed.filter(({ before, after }) => isOn(after) && !isOn(before)).map(({ after }) => after.id);
  await sql.query('update definition set on_epoch = $2 where id = any($1::int[])', [turnedOn, epoch]);
  // What stood still and goes on again has missed what happened meanwhile.
  const mended = was.broken.map(({ id }) => id).filter((id) => !compiled.isBroken(id) && compiled.catalogue.any(id));
  const older = zoneChanged || everything ? [...derived] : [...new Set([...changed.map(({ after }) => after.id), ...mended])];
  // Tags that are to go by themselves from now on go from whoever has had them for longer.
  const expiry = (definition: AnyDefinition | undefined) => ({ expires: definition?.kind === 'tag' ? definition.body.expires : undefined });
  const goes = planned.some(({ before, after }) => after.kind === 'tag' && !deletes(after) && !same(expiry(before), expiry(after)));
  if (older.length === 0 && !goes) return;
  await sql.query(
    `update definition d set epoch = $2, epoch_cause = nullif(r.cause, '') from unnest($1::int[], $3::text[]) as r(id, cause) where d.id = r.id`,
    [older, epoch, older.map((id) => causeOf(id, compiled.catalogue, planned, zoneChanged))],
  );
  const passes = zoneChanged || everything || goes;
  // What is deleted has been taken from everyone above.
  const ways = older.filter((id) => !planned.some(({ after }) => after.id === id && deletes(after))).map((id) => bringingUp(compiled, id));
  if (!passes && ways.every((way) => way === 'nothing')) return;
  const [first, ...others] = changed.map(({ after }) => after.name);
  const name =
    zoneChanged || everything || first === undefined ? 'everything' : others.length === 0 ? first : `${first} and ${others.length} more`;
  await orderBuild(
    sql,
    {
      definitions: older,
      name,
      atOnce: !passes && !ways.includes('a pass of each'),
      cause: changed.length === 1 && changed[0] ? `${changed[0].after.id}/${changed[0].after.version}` : by,
    },
    epoch,
    now,
  );
}

/** What changed the meaning of a definition in this save: nothing to say where it was saved itself. */
function causeOf(id: number, catalogue: Catalogue, planned: readonly Planned[], zoneChanged: boolean): string {
  const changed = new Map<number, AnyDefinition>(planned.map(({ after }) => [after.id, after]));
  if (changed.has(id)) return '';
  const read = [id];
  const seen = new Set(read);
  // The nearest of what it rests on that was saved; conditions can also rest on things that they do not name.
  for (let at = read.shift(); at !== undefined; at = read.shift()) {
    const definition = catalogue.any(at);
    for (const named of definition ? referencesIn(definition) : []) {
      const found = changed.get(named);
      if (found) return `${found.id}/${found.version}`;
      if (!seen.has(named)) read.push(named);
      seen.add(named);
    }
  }
  if (zoneChanged) return 'workspace';
  const reaching = planned.find(({ kind }) => REACHES_ALL.includes(kind))?.after;
  return reaching ? `${reaching.id}/${reaching.version}` : '';
}
