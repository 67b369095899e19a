import { Injectable } from '@nestjs/common';
import {
  effectWords,
  EVERYONE,
  explain,
  lineOf,
  Moment,
  recordedFor,
  scoreOf,
  waysTo,
  withClock,
  type Compiled,
  type SubjectState,
  type WhyLine,
} from '@eager-sieve/core';
import { type WhyNotQuery, type WhyNotView } from '@eager-sieve/contracts';
import { giverName } from '../contacts/contact-view';
import { type Own } from '../contacts/own';
import { CampaignsService } from '../campaigns/campaigns.service';
import { Database } from '../database/database';
import { ALL, loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { EFFECT_COLUMNS, EFFECT_TABLES, type StoredEffect } from './ledger.service';
import { causeWords } from './words';

const BEFORE_SHOWN = 5;
const KINDS = { tag: 'tag', stage: 'stage', audience: 'audience', band: 'scorecard', message: 'message' } as const;
/** Under which kinds of effects it stands in the ledger. */
const EFFECTS = { tag: ['tag'], stage: ['stage', 'kept'], audience: ['membership', 'pin'], band: ['band'], message: [] } as const;

interface Asked {
  readonly compiled: Compiled;
  readonly state: SubjectState;
  readonly moment: Moment;
  readonly query: WhyNotQuery;
}
type Said = Pick<WhyNotView, 'isSo' | 'says' | 'ways'>;

/** Why something is not so of a contact: everything that could have made it so, and what held each back. */
@Injectable()
export class WhyNotService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly campaigns: CampaignsService,
  ) {}

  async whyNot(contact: number, query: WhyNotQuery, own: Own): Promise<WhyNotView> {
    const { compiled } = await this.store.seen(this.database, own);
    const { catalogue } = compiled;
    const thing = catalogue.find(KINDS[query.of], query.key);
    const state = (await loadStates(this.database, catalogue, [contact], ALL)).get(contact);
    if (!thing || !state) throw notFound(KINDS[query.of]);
    const moment = new Moment(Math.max(this.clock.now(), state.lastNow), catalogue.zone);
    const asked = { compiled, state, moment, query };
    const said = query.of === 'message' ? await this.#message(asked) : SAID[query.of](asked);
    const rows = await this.database.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES}
        where l.contact_id = $1 and l.kind = any($2::text[]) and l.definition_id = $3 order by l.id desc limit ${BEFORE_SHOWN}`,
      [contact, EFFECTS[query.of], thing.id],
    );
    const causes = await causeWords(this.database, catalogue, rows);
    const before = rows.map((row, index) => ({ words: effectWords(row, catalogue), cause: causes[index] ?? '', at: row.at.toISOString() }));
    return { ...said, before };
  }

  async #message(asked: Asked): Promise<Said> {
    const { compiled, state, query } = asked;
    const message = compiled.catalogue.find('message', query.key);
    const audience = message && compiled.catalogue.get('audience', message.body.audience ?? -1);
    if (!message || !audience) return { isSo: false, says: 'It has no audience yet, so it goes to nobody.', ways: [] };
    const { isMember, held, sent } = await this.campaigns.standing(query.key, state.id);
    const inside = SAID.audience({ ...asked, query: { of: 'audience', key: audience.key } });
    const lines: readonly WhyLine[] = [
      { words: `they are in ${audience.name}`, holds: isMember, ...(isMember ? {} : { of: inside.ways.flatMap((way) => way.lines) }) },
      { words: held ? `they may be written to: this contact ${held}` : 'they may be written to', holds: held === null },
    ];
    const says =
      sent > 0
        ? `It has gone to them${sent === 1 ? '' : ` ${sent} times`}.`
        : lines.every((line) => line.holds)
          ? 'They get it when it is sent.'
          : 'They would not get it.';
    const because = !isMember
      ? `They are not in ${audience.name}.`
      : held
        ? `Held back: ${held}.`
        : sent > 0
          ? 'It went to them.'
          : 'It has not been sent to them yet.';
    return { isSo: sent > 0, says, ways: [{ kind: 'message', key: message.key, name: message.name, because, lines: mutable(lines) }] };
  }
}

/** How it is, by what is asked about. */
const SAID: { readonly [Of in Exclude<WhyNotQuery['of'], 'message'>]: (asked: Asked) => Said } = {
  tag: ({ compiled, state, moment, query }) => {
    const tag = compiled.catalogue.find('tag', query.key);
    const id = tag?.id ?? -1;
    const isSo = state.tags.has(id);
    return { isSo, says: isSo ? 'They have it.' : 'They do not have it.', ways: told(waysTo(compiled, state, moment, { of: 'tag', id })) };
  },
  stage: ({ compiled, state, moment, query }) => {
    const id = compiled.catalogue.find('stage', query.key)?.id ?? -1;
    const stands = state.stage && compiled.catalogue.get('stage', state.stage.id)?.name;
    return {
      isSo: state.stage?.id === id,
      says: stands ? `They stand at ${stands}.` : 'They stand at no stage.',
      ways: told(waysTo(compiled, state, moment, { of: 'stage', id })),
    };
  },
  audience: ({ compiled, state, moment, query }) => {
    const { catalogue } = compiled;
    const audience = catalogue.find('audience', query.key);
    if (!audience) throw notFound('audience');
    const { id, key, name, body } = audience;
    const isSo = state.memberships.has(id);
    const says = isSo ? 'They are in it.' : 'They are not in it.';
    if (body.kind === 'fixed') return { isSo, says, ways: told(waysTo(compiled, state, moment, { of: 'list', id })) };
    const node = compiled.audienceNode(id);
    if (!node)
      return { isSo, says, ways: [{ kind: 'audience', key, name, lines: [], because: compiled.whyBroken.get(id) ?? 'It stands still.' }] };
    const line = lineOf(explain(node, state, moment), body.condition ?? EVERYONE, catalogue);
    const pin = state.pins.get(id);
    const pinned = pin ? [{ words: `they are pinned ${pin.in ? 'in' : 'out'}: ${pin.reason}`, holds: pin.in }] : [];
    const lines = [
      ...pinned,
      ...(line.of && body.condition && 'match' in body.condition && body.condition.match === 'all' ? line.of : [line]),
    ];
    const failing = lines.filter((each) => !each.holds).length;
    const because = pin
      ? `Pinned ${pin.in ? 'in' : 'out'} by ${pin.by}.`
      : failing === 0
        ? 'All its lines hold.'
        : `${failing} of ${lines.length} lines ${failing === 1 ? 'does' : 'do'} not hold.`;
    return { isSo, says, ways: [{ kind: 'audience', key, name, because, lines: mutable(lines) }] };
  },
  band: ({ compiled, state, moment, query }) => {
    const { catalogue } = compiled;
    const scorecard = catalogue.find('scorecard', query.key);
    const card = scorecard && compiled.card(scorecard.id);
    if (!scorecard) throw notFound('scorecard');
    const { id, key, name, body } = scorecard;
    const band = body.bands.find((each) => each.key === query.band) ?? body.bands.at(-1);
    if (!card || !band) return { isSo: false, says: compiled.whyBroken.get(id) ?? 'It stands still.', ways: [] };
    const score = scoreOf(card, withClock(compiled, state, moment), recordedFor(state, id), moment);
    const points = score.points / 1_000;
    const counted = new Map(score.lines.map((each) => [each.key, each.points / 1_000]));
    // What rules, forms and bundles gave counts beside the lines of the card.
    const given = score.lines.flatMap(({ key: line }) =>
      line.startsWith('rule:') ? [{ key: line, name: giverName(catalogue, line) }] : [],
    );
    const lines = [...body.lines, ...given].map((each) => {
      const gives = counted.get(each.key) ?? 0;
      return {
        words: `${each.name ?? each.key}: ${gives === 0 ? 'nothing' : `${gives > 0 ? '+' : '−'}${Math.abs(gives)}`}`,
        holds: gives > 0,
      };
    });
    const isSo = state.scores.get(id)?.band === band.key;
    const next = body.bands[body.bands.indexOf(band) + 1];
    const short = band.from - points;
    const because = isSo
      ? `They are ${band.name}.`
      : short > 0
        ? `${band.name} begins at ${band.from}: ${round(short)} more.`
        : `${next?.name ?? 'The next band'} begins at ${next?.from ?? ''}.`;
    return { isSo, says: `They have ${round(points)} points in ${name}.`, ways: [{ kind: 'scorecard', key, name, because, lines }] };
  },
};

const round = (points: number): number => Math.round(points * 100) / 100;
const mutable = (lines: readonly WhyLine[]): WhyNotView['ways'][number]['lines'] =>
  lines.map(({ words, holds, of }) => ({ words, holds, ...(of ? { of: mutable(of) } : {}) }));
const told = (ways: ReturnType<typeof waysTo>): WhyNotView['ways'] =>
  ways.map(({ kind, key, name, because, lines }) => ({ kind, key, name, because, lines: mutable(lines) }));
