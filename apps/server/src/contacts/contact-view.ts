import {
  goesAt,
  kindWord,
  Moment,
  recordedFor,
  scoreOf,
  showFact,
  strongestFirst,
  turnsAt,
  withClock,
  writeTagValue,
  moneyText,
  writeFact,
  type Catalogue,
  type Compiled,
  type ConsentChannel,
  type Deal,
  type KeptScore,
  type SubjectState,
  type TagReason,
} from '@eager-sieve/core';
import { type ContactView, type DealView } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { proofsOf } from './consent-proofs';

type ScoreView = DealView['scores'][number];

/** The facts of a subject, field by field in the order of the catalogue. */
export function fieldViews(catalogue: Catalogue, state: SubjectState, of: 'contact' | 'company'): ContactView['fields'] {
  return catalogue.fields().flatMap((field) => {
    const fact = state.facts.get(field.id);
    if (fact === undefined || field.body.of !== of) return [];
    const shown = state.shown.get(field.id);
    const money = field.body.type === 'money' ? ` ${catalogue.workspace.currency}` : '';
    return [
      {
        key: field.key,
        name: field.name,
        value: writeFact(field.body, fact, shown),
        shown: `${showFact(field.body, fact, shown)}${money}`,
      },
    ];
  });
}

export function tagViews(catalogue: Catalogue, state: SubjectState): ContactView['tags'] {
  return [...state.tags]
    .flatMap(([id, held]) => {
      const tag = catalogue.get('tag', id);
      if (!tag) return [];
      const value = held.value === undefined ? undefined : writeTagValue(tag.body.value ?? 'number', held.value);
      const reasons = held.reasons.map((reason) => ({ ...reason, words: reasonWords(catalogue, reason) }));
      const at = tag.body.expires ? goesAt(tag.body.expires, held, catalogue.zone) : Infinity;
      return [{ key: tag.key, name: tag.name, since: iso(held.since), value, goesAt: Number.isFinite(at) ? iso(at) : null, reasons }];
    })
    .sort((a, b) => b.since.localeCompare(a.since));
}

/** Why a contact has a tag, in words: the rule, the map and the order, the answer. */
export function reasonWords(catalogue: Catalogue, reason: TagReason): string {
  const [first = '', ...rest] = reason.ref.split('/');
  const id = Number(first);
  switch (reason.kind) {
    case 'rule':
      return `rule ${catalogue.get('rule', id)?.name ?? catalogue.absence(id)}`;
    case 'map':
      return `${catalogue.get('map', id)?.name ?? 'a signal map'}: ${[...new Set(rest.reverse())].join(', ')}`;
    case 'form': {
      const form = catalogue.get('form', id);
      const question = form?.body.questions.find((each) => each.key === rest[0]);
      const option = question?.options?.find((each) => each.key === rest[1]);
      return `${form?.name ?? 'a form'}: ${question?.label ?? rest[0] ?? ''} “${option?.name ?? rest[1] ?? ''}”`;
    }
    case 'bundle':
      return `bundle ${catalogue.get('bundle', id)?.name ?? catalogue.absence(id)}, run by hand`;
    case 'link':
      return `a choice link in ${catalogue.get('message', id)?.name ?? 'a message'}`;
    case 'hand':
      return `by hand, ${reason.ref}`;
    case 'import':
      return `import ${reason.ref}`;
    case 'api':
      return `the API, ${reason.ref}`;
  }
}

function scoreView(catalogue: Catalogue, id: number, kept: KeptScore): ScoreView | undefined {
  const card = catalogue.get('scorecard', id);
  if (!card || card.retired) return undefined;
  return {
    key: card.key,
    name: card.name,
    points: kept.points / 1_000,
    band: kept.band,
    bandName: card.body.bands.find((band) => band.key === kept.band)?.name ?? kept.band,
  };
}

/** What gave points beside the lines of a scorecard, which is where they are counted as `rule:` and its id: a rule, a form, a bundle. */
export function giverName(catalogue: Catalogue, line: string): string {
  const id = Number(line.slice('rule:'.length));
  const giver = catalogue.any(id);
  return giver ? `${kindWord(giver.kind)} ${giver.name}` : `rule ${catalogue.absence(id)}`;
}

/** The stored scores with every line that counts, strongest first. */
export function scoreViews(compiled: Compiled, state: SubjectState, moment: Moment): ContactView['scores'] {
  const { catalogue } = compiled;
  return compiled.derivedFor(state.kind).flatMap((derived) => {
    const kept = derived.kind === 'score' && derived.of === state.kind ? state.scores.get(derived.id) : undefined;
    const view = kept && scoreView(catalogue, derived.id, kept);
    if (derived.kind !== 'score' || !kept || !view) return [];
    const card = catalogue.body('scorecard', derived.id);
    const score = scoreOf(derived.card, withClock(compiled, state, moment), recordedFor(state, derived.id), moment);
    const nameOf = (key: string): string =>
      key.startsWith('rule:') ? giverName(catalogue, key) : (card?.lines.find((each) => each.key === key)?.name ?? key);
    return [
      {
        ...view,
        bandSince: iso(kept.bandSince),
        exactUntil: Number.isFinite(score.changesAt) ? iso(score.changesAt) : null,
        lines: strongestFirst(score.lines).map((line) => ({
          key: line.key,
          name: nameOf(line.key),
          points: line.points / 1_000,
          signals: line.signals?.length ?? null,
          changesAt: Number.isFinite(line.changesAt) ? iso(line.changesAt) : null,
        })),
      },
    ];
  });
}

export interface DealNames {
  readonly uid: string;
  readonly contact: string | null;
  readonly company: string | null;
}

export function dealView(catalogue: Catalogue, holder: SubjectState, deal: Deal, names: DealNames): DealView {
  const pipeline = catalogue.get('pipeline', deal.pipeline);
  const stage = pipeline?.body.stages.find((each) => each.key === deal.stage);
  const { currency } = catalogue.workspace;
  return {
    id: names.uid,
    outsideId: deal.outsideId,
    name: deal.name,
    pipeline: pipeline?.key ?? '',
    stage: deal.stage,
    stageName: stage?.name ?? deal.stage,
    outcome: stage?.outcome ?? 'open',
    amount: deal.amount === undefined ? null : moneyText(deal.amount, currency),
    currency,
    opened: iso(deal.opened),
    moved: iso(deal.moved),
    contact: names.contact,
    company: names.company,
    fields: Object.fromEntries(
      [...deal.facts].flatMap(([id, fact]) => {
        const field = catalogue.get('field', id);
        return field ? [[field.key, writeFact(field.body, fact)]] : [];
      }),
    ),
    scores: [...holder.dealScores].flatMap(([key, kept]) => {
      const [of, card] = key.split(':').map(Number);
      const view = of === deal.id ? scoreView(catalogue, card as number, kept) : undefined;
      return view ? [view] : [];
    }),
  };
}

/** How consent stands by channel, with the proof of what was given on a form. */
export async function consentViews(sql: Sql, catalogue: Catalogue, state: SubjectState): Promise<ContactView['consent']> {
  const proofs = await proofsOf(sql, state.id);
  const channels = [...new Set([...state.consent.keys(), ...proofs.map((row) => row.channel as ConsentChannel)])];
  return channels.map((channel) => {
    const consent = state.consent.get(channel);
    const row = proofs.find((each) => each.channel === channel);
    const proof = row && {
      form: catalogue.get('form', row.form_id)?.name ?? 'a form that is gone',
      words: row.words,
      asked: row.asked_at.toISOString(),
      askedFrom: row.asked_from,
      confirmed: row.confirmed_at?.toISOString() ?? null,
      confirmedFrom: row.confirmed_from,
    };
    return { channel, state: consent?.state ?? 'unknown', at: consent ? iso(consent.at) : null, proof: proof ?? null };
  });
}

const LONGEST_AHEAD_MS = 2 * 366 * 86_400_000;

/** The audiences that somebody is in, and when they leave each if nothing happens. */
export function audienceViews(compiled: Compiled, state: SubjectState, moment: Moment): ContactView['audiences'] {
  const { catalogue } = compiled;
  // A tag that goes by itself before could turn anything that asks of it.
  const goes = [...state.tags].map(([tag, held]) => {
    const expires = compiled.expiries.get(tag);
    return expires ? goesAt(expires, held, catalogue.zone) : Number.POSITIVE_INFINITY;
  });
  const until = Math.min(moment.instant + LONGEST_AHEAD_MS, ...goes);
  return [...state.memberships].flatMap(([id, { since }]) => {
    const audience = catalogue.get('audience', id);
    if (!audience) return [];
    const node = state.pins.has(id) ? undefined : compiled.audienceNode(id);
    const leaves = node && turnsAt(compiled, state, node, moment, until);
    return [
      {
        ...{ key: audience.key, name: audience.name, kind: audience.body.kind, since: iso(since) },
        leavesAt: leaves === undefined ? null : iso(leaves),
      },
    ];
  });
}
