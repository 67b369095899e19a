import { AudienceSizes, type AudienceSize } from '../audiences/audience-sizes';
import { sentenceOf } from '../audiences/words';
import { Injectable } from '@nestjs/common';
import { fold, Moment, type AnyDefinition, type Catalogue, type Compiled, type DefinitionKind } from '@eager-sieve/core';
import { type CircleView, type SearchHit, type SourceHealth, type TodayView } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { asItIs } from '../database/like';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { FormResultsService } from '../intake/form-results.service';
import { SourcesService } from '../intake/sources.service';
import { SetAsideService } from '../intake/set-aside.service';
import { CirclesService } from '../rules/circles.service';
import { DemoDoor } from './demo-door';
import { WatchesService } from '../intake/watches.service';
import { FLOWED, flowOf, isUnusual, UsualFlow } from './usual';
import { EVERYONES, ownSql, type Own } from '../contacts/own';
import { DefinitionStore } from '../settings/definition-store';

const HOUR_MS = 3_600_000;

const HELD_FOR = { contact: ['person', 'people'], company: ['company', 'companies'] } as const;

/** What today knows of how things stand. */
interface Standing {
  readonly moved: readonly { readonly definition_id: number }[];
  readonly sizes: ReadonlyMap<number, AudienceSize>;
  readonly circles: readonly CircleView[];
  /** tags that nobody has */
  readonly silent: readonly { readonly id: number }[];
  readonly quiet: readonly SourceHealth[];
  readonly unmapped: Awaited<ReturnType<FormResultsService['unmapped']>>;
  readonly now: number;
}

/** Up to so many tags that nobody has are named one by one. */
const MOST_NAMED = 2;

const unusedWords = (tags: readonly { readonly key: string }[]): TodayView['attention'] =>
  tags.length > MOST_NAMED
    ? [{ kind: 'unused', words: `Nobody has ${tags.length} of the tags`, link: '/tags?show=look' }]
    : tags.map(({ key }) => ({ kind: 'unused', words: `Nobody has tag ${key}`, link: `/tags/${key}` }));

function hoursWords(ms: number): string {
  const hours = Math.round(ms / HOUR_MS);
  return hours < 48 ? `${hours} hours` : `${Math.round(hours / 24)} days`;
}

@Injectable()
export class TodayService {
  readonly #usual: UsualFlow;

  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly circles: CirclesService,
    private readonly setAside: SetAsideService,
    private readonly watches: WatchesService,
    private readonly demo: DemoDoor,
    private readonly sources: SourcesService,
    private readonly forms: FormResultsService,
    private readonly sizes: AudienceSizes,
  ) {
    this.#usual = new UsualFlow(database);
  }

  async loadDemo(): Promise<void> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const [contacts] = await this.database.query<{ n: number }>('select count(*) as n from contact where last_now is not null');
    this.demo.load(isEmpty(contacts?.n, catalogue));
  }

  stopDemo(): void {
    this.demo.stop();
  }

  /** What flowed through since the start of yesterday, what moved, and what needs a hand. */
  async today(): Promise<TodayView> {
    const { compiled } = await this.store.current(this.database);
    const { catalogue } = compiled;
    const now = this.clock.now();
    const since = iso(new Moment(now, catalogue.zone).lastStart(1, 'days'));
    const [[contacts], [signals], effects, moved, byHour, silent, usual] = await Promise.all([
      this.database.query<{ n: number }>('select count(*) as n from contact where last_now is not null and merged_into is null'),
      this.database.query<{ n: number }>('select count(*) as n from signal where time >= $1', [since]),
      this.database.query<{ kind: string; verb: string; n: number }>(
        `select kind, verb, count(*) as n from ledger where at >= $1 and ${FLOWED} group by 1, 2`,
        [since],
      ),
      this.database.query<{ definition_id: number; came: number; gone: number }>(
        `select d.id as definition_id, count(l.id) filter (where l.verb = 'joined') as came, count(l.id) filter (where l.verb = 'left') as gone
           from definition d left join ledger l on l.kind = 'membership' and l.definition_id = d.id and l.at >= $1 and l.cause_kind <> 'definition'
          where d.kind = 'audience' and not d.retired group by d.id`,
        [since],
      ),
      this.database.query<{ hour: Date; n: number }>(
        `select date_trunc('hour', time) as hour, count(*) as n from signal where time >= $1 group by 1 order by 1`,
        [iso(now - 24 * HOUR_MS)],
      ),
      this.database.query<{ id: number }>(
        `select d.id from definition d where d.kind = 'tag' and not d.retired and not exists (select from contact_tag t where t.tag_id = d.id) order by d.id`,
      ),
      this.#usual.until(Date.parse(since), now),
    ]);
    const [sizes, circles, aside, quiet, unmapped, troubled] = await Promise.all([
      this.sizes.of(
        compiled,
        moved.map((row) => row.definition_id),
        EVERYONES,
      ),
      this.circles.list(catalogue),
      this.setAside.count(),
      this.sources.silent(),
      this.forms.unmapped(),
      this.watches.troubled(),
    ]);
    return {
      since,
      contacts: contacts?.n ?? 0,
      demo: this.demo.view(isEmpty(contacts?.n, catalogue)),
      flow: flowOf(signals?.n ?? 0, effects),
      usual: usual?.flow ?? null,
      moved: moved
        .flatMap((row) => {
          const audience = catalogue.get('audience', row.definition_id);
          if (!audience) return [];
          const { key, name, body } = audience;
          const ordinary = usual === null ? null : (usual.moved.get(row.definition_id) ?? 0);
          const unusual = ordinary !== null && isUnusual(row.came + row.gone, ordinary);
          const movement = { came: row.came, left: row.gone, usual: ordinary === null ? null : Math.round(ordinary), isUnusual: unusual };
          return [{ key, name, of: body.of, members: sizes.get(row.definition_id)?.members ?? 0, ...movement }];
        })
        .sort((a, b) => Number(b.isUnusual) - Number(a.isUnusual) || b.came + b.left - (a.came + a.left))
        .slice(0, 8),
      attention: [
        ...asideWords(aside),
        ...watchWords(troubled),
        ...this.#attention(compiled, { moved, sizes, circles, silent, quiet, unmapped, now }),
      ],
      signalsByHour: byHour.map((row) => ({ hour: row.hour.toISOString(), signals: row.n })),
    };
  }

  /** What needs a hand, the most pressing first: what stands still or went in a circle, sources that fell silent, what is empty, off, or unused. */
  #attention(compiled: Compiled, { moved, sizes, circles, silent, quiet, unmapped, now }: Standing): TodayView['attention'] {
    const { catalogue } = compiled;
    return [
      ...compiled.broken.map((each) => ({
        kind: 'broken',
        words: `${catalogue.any(each.id)?.name ?? 'Something'} is broken and stands still: ${compiled.whyBroken.get(each.id) ?? ''}`,
        link: pageOf(catalogue.any(each.id)),
      })),
      ...circles.map(({ key, name, held, of, with: others }) => ({
        kind: 'circling',
        words: `Rule ${name} went in a circle${others.length > 0 ? ` with ${others.map((other) => other.name).join(', ')}` : ' with itself'}, and is held back for ${held.toLocaleString('en')} ${HELD_FOR[of][held === 1 ? 0 : 1]}`,
        link: `/rules/${key}`,
      })),
      ...quiet.map(({ name, last, usual }) => ({
        kind: 'silent',
        words: `Nothing has come from ${name} for ${hoursWords(now - Date.parse(last))}; ordinarily it is ${usual.toLocaleString('en')} a day`,
        link: `/intake/stream?source=${encodeURIComponent(name)}`,
      })),
      ...unmapped.map(({ form, label, answers }) => ({
        kind: 'unmapped',
        words: `${answers.toLocaleString('en')} ${answers === 1 ? 'answer' : 'answers'} to “${label}” in the last 30 days ${answers === 1 ? 'falls' : 'fall'} into no group`,
        link: `/intake/forms/${form}?view=map`,
      })),
      ...moved.flatMap((row) => {
        const audience = catalogue.get('audience', row.definition_id);
        return audience && (sizes.get(row.definition_id)?.members ?? 0) === 0
          ? [{ kind: 'empty', words: `${audience.name} is empty`, link: `/audiences/${audience.key}` }]
          : [];
      }),
      ...catalogue
        .all('rule')
        .filter((rule) => !rule.body.on)
        .map((rule) => ({ kind: 'off', words: `Rule ${rule.name} is off`, link: `/rules/${rule.key}` })),
      ...unusedWords(silent.flatMap((row) => catalogue.get('tag', row.id) ?? [])),
    ];
  }

  /** Contacts and definitions by name, address or key. */
  async search(text: string, withContacts: boolean, own: Own): Promise<SearchHit[]> {
    const wanted = fold(text);
    if (wanted === '') return [];
    const { compiled } = await this.store.seen(this.database, own);
    const definitions = definitionHits(compiled.catalogue, wanted, own);
    if (!withContacts) return definitions;
    const like = asItIs(wanted);
    const contacts = await this.database.query<{ uid: string; name: string; email: string | null }>(
      `select uid, name, email from contact where last_now is not null and merged_into is null and (name_folded like $1 or email_folded like $1 or name_folded like $2)
          and ${ownSql('owner', 4)} order by (name_folded like $3) desc, name_folded limit 12`,
      [`${like}%`, `% ${like}%`, `${like}%`, own?.owners ?? null],
    );
    return [
      ...definitions,
      ...contacts.map((row) => ({ kind: 'contact', key: row.uid, name: row.name, detail: row.email ?? '', link: `/people/${row.uid}` })),
    ];
  }
}

/** Nobody is there, and nothing that one would build. */
const isEmpty = (contacts: number | undefined, catalogue: Catalogue): boolean =>
  (contacts ?? 0) === 0 && (['tag', 'audience', 'rule', 'form'] as const).every((kind) => catalogue.every(kind).length === 0);

/** Where the pages of definitions are. What is not named here has its page among others of its kind. */
const PLACE = { audience: 'audiences', rule: 'rules', scorecard: 'scores', form: 'intake/forms', message: 'campaigns' } as const;
const PLACES: Partial<Record<DefinitionKind, string>> = { ...PLACE, bundle: 'rules/bundles', map: 'rules/maps', routing: 'rules/routing' };
const pageOf = (definition: AnyDefinition | undefined): string => {
  const place = definition && PLACES[definition.kind];
  return place ? `/${place}/${definition.key}` : '/settings';
};

/** Pages of these tell of everyone: whoever sees only their own contacts cannot open them. */
const OF_EVERYONE: ReadonlySet<string> = new Set(['form', 'message']);

function definitionHits(catalogue: Catalogue, wanted: string, own: Own): SearchHit[] {
  const hits: SearchHit[] = [];
  for (const [kind, place] of Object.entries(PLACE) as [keyof typeof PLACE, string][]) {
    if (own && OF_EVERYONE.has(kind)) continue;
    for (const definition of catalogue.all(kind)) {
      if (!fold(definition.name).includes(wanted) && !definition.key.includes(wanted)) continue;
      const audience = kind === 'audience' ? catalogue.get('audience', definition.id as number) : undefined;
      hits.push({
        kind,
        key: definition.key,
        name: definition.name,
        detail: audience ? sentenceOf(audience, catalogue).slice(0, 120) : '',
        link: `/${place}/${definition.key}`,
      });
    }
  }
  for (const tag of catalogue.all('tag'))
    if (tag.key.includes(wanted) || fold(tag.name).includes(wanted))
      hits.push({ kind: 'tag', key: tag.key, name: tag.key, detail: tag.name, link: '/tags' });
  return hits.slice(0, 12);
}

/** Watched files that could not be read, or from which more are gone than can be believed. */
const watchWords = (troubled: Awaited<ReturnType<WatchesService['troubled']>>): TodayView['attention'] =>
  troubled.map(({ id, name, error, held }) => ({
    kind: 'watched file',
    words:
      error === null
        ? `${held.toLocaleString('en')} are gone from the watched file ${name}: nothing was taken off until you say whether that is right`
        : `The watched file ${name} could not be read: ${error}`,
    link: `/intake/watched/${id}`,
  }));

const asideWords = (aside: number): TodayView['attention'] =>
  aside === 0
    ? []
    : [
        {
          kind: 'set aside',
          words: `${aside === 1 ? 'Something that came in' : `${aside.toLocaleString('en')} things that came in`} could not be worked`,
          link: '/intake',
        },
      ];
