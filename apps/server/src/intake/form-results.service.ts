import { Injectable } from '@nestjs/common';
import { isUnmapped, localDay, rowsFor, writeDay, type Catalogue, type Definition, type Question } from '@eager-sieve/core';
import { type FormResults, type SingleAnswers } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';

const DAY_MS = 86_400_000;
/** So many distinct answers to a question are looked at, and so many are shown. */
const MOST_DISTINCT = 5_000;
const MOST_SHOWN = 200;
/** Whoever has done nothing for so long has left. */
const LEFT_AFTER_MS = 30 * 60_000;

interface Counted {
  readonly question: string;
  readonly answer: string;
  readonly people: number;
}

/** A question with answers that none of its groups takes. */
interface Unmapped {
  readonly form: string;
  readonly label: string;
  readonly answers: number;
}
const UNMAPPED_DAYS = 30;
const UNMAPPED_FOR_MS = 60_000;

/** How forms go: what is answered, which ways are taken, and where people leave them. */
@Injectable()
export class FormResultsService {
  #asOf: { readonly at: number; readonly unmapped: readonly Unmapped[] } | undefined;

  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  async #form(key: string): Promise<{ readonly form: Definition<'form'>; readonly type: number; readonly catalogue: Catalogue }> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const form = catalogue.find('form', key);
    if (!form) throw notFound('form');
    return { form, catalogue, type: catalogue.find('signalType', 'form.answered')?.id ?? -1 };
  }

  /** @param days only of so many days */
  async results(key: string, days: number | undefined): Promise<FormResults> {
    const { form, type, catalogue } = await this.#form(key);
    const now = this.clock.now();
    const since = new Date(days === undefined ? 0 : now - days * DAY_MS);
    const [counts, answered, [sent], [seen], visits] = await Promise.all([
      this.#counts(key, type, since),
      this.#answered(key, type, since),
      this.database.query<{ n: number }>(`select count(*)::int as n from signal where type_id = $1 and time >= $2 and data->>'form' = $3`, [
        type,
        since,
        key,
      ]),
      this.database.query<{ views: number; begun: number }>(
        `select coalesce((select sum(n) from form_view where form_id = $1 and day >= $3::date), 0)::int as views,
                (select count(*) from form_visit where form_id = $1 and begun_at >= $2)::int as begun`,
        [form.id, since, writeDay(localDay(since.getTime(), catalogue.zone))],
      ),
      this.database.query<{ asked: readonly string[]; is_done: boolean; is_left: boolean; n: number }>(
        `select asked, done_at is not null as is_done, done_at is null and touched_at < $3 as is_left, count(*)::int as n
           from form_visit where form_id = $1 and begun_at >= $2 group by 1, 2, 3`,
        [form.id, since, new Date(now - LEFT_AFTER_MS)],
      ),
    ]);
    const ways = new Map<string, number>();
    const left = new Map<string, number>();
    for (const { asked, is_done, is_left, n } of visits) {
      asked.forEach((from, at) => {
        const to = asked[at + 1] ?? (is_done ? '' : undefined);
        if (to !== undefined) ways.set(`${from}>${to}`, (ways.get(`${from}>${to}`) ?? 0) + n);
      });
      const at = asked.at(-1);
      if (is_left && at !== undefined) left.set(at, (left.get(at) ?? 0) + n);
    }
    return {
      views: seen?.views ?? 0,
      begun: seen?.begun ?? 0,
      sent: sent?.n ?? 0,
      questions: form.body.questions.map((question) =>
        ofQuestion(question, { counts, answered: answered.get(question.key) ?? 0, left: left.get(question.key) ?? 0 }),
      ),
      ways: [...ways].map(([way, people]) => {
        const [from = '', to = ''] = way.split('>');
        return { from, to: to === '' ? null : to, people };
      }),
    };
  }

  /** Each distinct answer to each question. Of several choices each counts alone. */
  #counts(key: string, type: number, since: Date): Promise<Counted[]> {
    return this.database.query<Counted>(
      `select question, answer, people from (
         select question, answer, count(*)::int as people, row_number() over (partition by question order by count(*) desc, answer) as place
           from (select q.key as question, case jsonb_typeof(q.value) when 'array' then q.value else jsonb_build_array(q.value) end as answers
                   from signal s, jsonb_each(case jsonb_typeof(s.data->'answers') when 'object' then s.data->'answers' else '{}' end) q
                  where s.type_id = $1 and s.time >= $2 and s.data->>'form' = $3) given,
                jsonb_array_elements_text(given.answers) answer
          where answer is not null and answer <> ''
          group by question, answer) counted
        where place <= ${MOST_DISTINCT} order by question, place`,
      [type, since, key],
    );
  }

  /** Questions to which somebody lately answered what falls into none of their groups, as of a minute ago at most. */
  async unmapped(): Promise<readonly Unmapped[]> {
    const now = this.clock.now();
    if (this.#asOf === undefined || now - this.#asOf.at > UNMAPPED_FOR_MS) this.#asOf = { at: now, unmapped: await this.#findUnmapped() };
    return this.#asOf.unmapped;
  }

  async #findUnmapped(): Promise<readonly Unmapped[]> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const sorting = catalogue.all('form').filter(({ body }) => body.questions.some(({ groups = [] }) => groups.length > 0));
    const found = await Promise.all(
      sorting.map(async ({ key, body }) => {
        const { questions } = await this.results(key, UNMAPPED_DAYS);
        return body.questions.map(({ label }, index): Unmapped => ({ form: key, label, answers: questions[index]?.unmapped ?? 0 }));
      }),
    );
    return found.flat().filter(({ answers }) => answers > 0);
  }

  /** How many answered each question, of several choices one or more. */
  async #answered(key: string, type: number, since: Date): Promise<ReadonlyMap<string, number>> {
    const rows = await this.database.query<{ question: string; n: number }>(
      `select q.key as question, count(*)::int as n
         from signal s, jsonb_each(case jsonb_typeof(s.data->'answers') when 'object' then s.data->'answers' else '{}' end) q
        where s.type_id = $1 and s.time >= $2 and s.data->>'form' = $3 and q.value not in ('null', '""', '[]') group by 1`,
      [type, since, key],
    );
    return new Map(rows.map(({ question, n }) => [question, n]));
  }

  async answers(key: string, { limit, after }: { readonly limit: number; readonly after?: string | undefined }): Promise<SingleAnswers> {
    const { type } = await this.#form(key);
    const cursor = readCursor(after, ['time', 'id']);
    const rows = await this.database.query<{
      id: number;
      contact: string;
      name: string;
      time: Date;
      data: { version?: unknown; answers?: unknown };
    }>(
      `select s.id, c.uid as contact, c.name, s.time, s.data from signal s join contact c on c.id = s.contact_id
        where s.type_id = $1 and s.data->>'form' = $2 and ($3::timestamptz is null or (s.time, s.id) < ($3::timestamptz, $4::bigint))
        order by s.time desc, s.id desc limit $5`,
      [type, key, cursor?.[0] ?? null, cursor?.[1] ?? null, limit + 1],
    );
    const shown = rows.slice(0, limit);
    const last = shown.at(-1);
    return {
      rows: shown.map(({ contact, name, time, data }) => ({
        contact,
        name,
        at: time.toISOString(),
        version: typeof data.version === 'number' ? data.version : null,
        answers: typeof data.answers === 'object' && data.answers !== null ? (data.answers as Record<string, unknown>) : {},
      })),
      after: rows.length > limit && last ? cursorOf(last.time.toISOString(), last.id) : null,
    };
  }

  /** A form's name, and its questions as the columns of its answers. */
  async form(key: string): Promise<{ readonly name: string; readonly questions: readonly Question[] }> {
    const { name, body } = (await this.#form(key)).form;
    return { name, questions: body.questions };
  }
}

interface OfQuestion {
  readonly counts: readonly Counted[];
  readonly answered: number;
  readonly left: number;
}

function ofQuestion(question: Question, { counts, answered, left }: OfQuestion): FormResults['questions'][number] {
  const own = counts.filter((each) => each.question === question.key);
  const nameOf = (answer: string): string => question.options?.find((option) => option.key === answer)?.name ?? answer;
  // An address says who somebody is; it is read on their own page.
  const shown = question.type === 'email' || question.type === 'phone' ? [] : own.slice(0, MOST_SHOWN);
  return {
    key: question.key,
    answered,
    left,
    answers: shown.map(({ answer, people }) => ({
      answer: nameOf(answer),
      people,
      rows: rowsFor(question, answer).map(({ name }) => name),
    })),
    distinct: own.length,
    unmapped: own.filter(({ answer }) => isUnmapped(question, answer)).reduce((sum, { people }) => sum + people, 0),
  };
}
