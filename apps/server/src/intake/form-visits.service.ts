import { Injectable } from '@nestjs/common';
import {
  localDay,
  pageOf,
  readAnswer,
  wayOf,
  writeDay,
  type Answers,
  type AnswerValue,
  type Definition,
  type Fault,
  type Question,
} from '@eager-sieve/core';
import { Database, type Transaction } from '../database/database';
import { FormVisit } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { ProblemError } from '../http/problem';
import { nameOf } from './form-page';
import { FormsService } from './forms.service';

/** So long an answer that was begun can be gone on with. */
const KEPT_MS = 30 * 86_400_000;

/** What a browser sent of one page. */
export interface SentPage {
  readonly visit: string;
  /** how many questions had been asked before the page */
  readonly at: number;
  readonly go: 'on' | 'back' | 'over';
  /** of which version of the form the page was, which questions it asked, and whether it was the last */
  readonly version: number | undefined;
  readonly shown: readonly string[];
  readonly isLast: boolean;
  readonly fields: Readonly<Record<string, unknown>>;
  readonly me: string | undefined;
  /** of a site, who came from there */
  readonly visitor?: string | undefined;
  /** the network address of whoever answers */
  readonly from: string;
}

/** A page was taken: the next one is at `at`, or nothing was kept of what was wrong. */
export type Taken =
  | { readonly at: number; readonly isChanged?: true }
  | { readonly faults: readonly Fault[]; readonly questions: readonly Question[]; readonly values: Readonly<Record<string, unknown>> };

/** People's ways through forms, page by page; what they have answered is kept until they send it, or for thirty days. */
@Injectable()
export class FormVisitsService {
  constructor(
    private readonly database: Database,
    private readonly forms: FormsService,
    private readonly clock: ServerClock,
  ) {}

  /** A visit to this form that can be gone on with. */
  async find(form: Definition<'form'>, id: string | undefined): Promise<FormVisit | undefined> {
    if (id === undefined || !/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(id)) return undefined;
    const visit = await this.database.read(FormVisit).findOneBy({ id, formId: form.id });
    return visit && this.clock.now() - visit.touchedAt.getTime() < KEPT_MS ? visit : undefined;
  }

  /** Counts that a form was looked at, by the workspace's days. */
  async looked(form: Definition<'form'>, zone: string): Promise<void> {
    await this.database.query(
      `insert into form_view as v (form_id, day, n) values ($1, $2::date, 1) on conflict (form_id, day) do update set n = v.n + 1`,
      [form.id, writeDay(localDay(this.clock.now(), zone))],
    );
  }

  /** Takes one page: keeps what is right, and sends all of it when the way is at its end. */
  async take(form: Definition<'form'>, sent: SentPage): Promise<Taken> {
    const visit = await this.find(form, sent.visit);
    if (visit?.doneAt) return { at: visit.asked.length };
    if (sent.go === 'over') {
      await this.database.transaction((sql) => sql.table(FormVisit).delete({ id: sent.visit, formId: form.id }));
      return { at: 0 };
    }
    const { questions } = form.body;
    const hidden = Object.fromEntries(
      questions.flatMap((question) => {
        const value = question.type === 'hidden' ? sent.fields[nameOf(question.key)] : undefined;
        return typeof value === 'string' && value !== '' ? [[question.key, value]] : [];
      }),
    );
    if (sent.version !== undefined && sent.version !== form.version) return this.#takeOld(form, sent, visit, hidden);
    const before: Answers = { ...hidden, ...visit?.answers };
    const page = pageOf(questions, before, sent.at);
    const { answers, faults } = answersIn(page, sent.fields, before);
    if (sent.go === 'on' && faults.length > 0)
      return { faults, questions: page, values: Object.fromEntries(page.map((each) => [each.key, typed(each, sent.fields)])) };
    if (sent.go === 'back') {
      const at = pageBefore(questions, answers, sent.at);
      await this.#keep({ form, sent, visit, answers }, at);
      return { at };
    }
    const way = wayOf(questions, answers);
    const at = sent.at + page.length;
    if (at < way.asked.length) {
      await this.#keep({ form, sent, visit, answers }, at);
      return { at };
    }
    await this.#send({ form, sent, visit, answers });
    return { at };
  }

  /** Takes a page of a version that another one has followed: what is still asked is kept, and the way goes on at the first question that is new. */
  async #takeOld(form: Definition<'form'>, sent: SentPage, visit: FormVisit | undefined, hidden: Answers): Promise<Taken> {
    const { questions } = form.body;
    const page = questions.filter(({ key, type }) => type !== 'hidden' && sent.shown.includes(key));
    const { answers, faults } = answersIn(page, sent.fields, { ...hidden, ...stillFitting(questions, visit?.answers ?? {}) });
    const wrong = new Set(faults.map(({ path }) => path[0]));
    const passed = sent.go === 'on' ? sent.shown.filter((key) => !wrong.has(key)) : [];
    const { asked } = wayOf(questions, answers);
    const at = firstNew(asked, [...(visit?.asked ?? []), ...passed]);
    const way = { form, sent, visit, answers };
    if (at === asked.length && sent.go === 'on' && sent.isLast) {
      await this.#send(way);
      return { at };
    }
    // Nothing is sent by a button that only goes on.
    const next = sent.go === 'back' || at === asked.length ? pageBefore(questions, answers, at) : at;
    await this.#keep(way, next);
    return { at: next, isChanged: true };
  }

  async #keep(way: Answered, at: number): Promise<void> {
    await this.database.transaction((sql) => this.#write(sql, way, at));
  }

  async #write(sql: Transaction, { form, sent, visit, answers }: Answered, at: number, done: Partial<FormVisit> = {}): Promise<void> {
    const now = new Date(this.clock.now());
    await sql.table(FormVisit).save({
      id: sent.visit,
      formId: form.id,
      version: form.version,
      answers,
      asked: wayOf(form.body.questions, answers)
        .asked.slice(0, at)
        .map(({ key }) => key),
      me: sent.me ?? visit?.me ?? null,
      begunAt: visit?.begunAt ?? now,
      touchedAt: now,
      doneAt: null,
      outcome: null,
      confirm: false,
      ...done,
    });
    // What was begun and left is not kept for longer than it is of use.
    await sql.query(`update form_visit set answers = '{}', came_from = null where touched_at < $1 and answers <> '{}'`, [
      new Date(now.getTime() - KEPT_MS),
    ]);
  }

  /** Sends the answers of the whole way. They are with the contact then, and no longer here. */
  async #send(way: Answered): Promise<void> {
    const { form, sent, visit, answers } = way;
    const { asked } = wayOf(form.body.questions, answers);
    const kept = new Set([...asked, ...form.body.questions.filter(({ type }) => type === 'hidden')].map(({ key }) => key));
    const given = Object.fromEntries(Object.entries(answers).filter(([key]) => kept.has(key)));
    const me = sent.me ?? visit?.me ?? undefined;
    await this.forms.answer(
      form.key,
      { submission: sent.visit, answers: given, me, visitor: sent.visitor, from: sent.from },
      (sql, { outcome = null, confirm }) =>
        this.#write(sql, way, asked.length, { answers: {}, me: null, doneAt: new Date(this.clock.now()), outcome, confirm }),
    );
  }
}

/** Somebody on their way through a form, with all that they have answered. */
interface Answered {
  readonly form: Definition<'form'>;
  readonly sent: SentPage;
  readonly visit: FormVisit | undefined;
  readonly answers: Answers;
}

/** The answers of one page beside those before it. What is wrong is left out, and what is emptied is taken away. */
function answersIn(
  page: readonly Question[],
  fields: Readonly<Record<string, unknown>>,
  before: Answers,
): { readonly answers: Answers; readonly faults: readonly Fault[] } {
  const answers: Record<string, AnswerValue> = { ...before };
  const faults: Fault[] = [];
  for (const question of page) {
    delete answers[question.key];
    const read = readAnswer(question, typed(question, fields));
    if (!read.ok) faults.push(...read.faults.map((fault) => ({ ...fault, path: [question.key] })));
    else if (read.value !== undefined) answers[question.key] = read.value;
    else if (question.required)
      faults.push({ path: [question.key], code: 'answer.missing', expected: question.type === 'consent' ? 'your consent' : 'an answer' });
  }
  return { answers, faults };
}

/** Of answers to a former version those that answer what is asked now. */
export function stillFitting(questions: readonly Question[], answers: Answers): Answers {
  return Object.fromEntries(
    questions.flatMap((question) => {
      const read = answers[question.key] === undefined ? undefined : readAnswer(question, answers[question.key]);
      return read?.ok && read.value !== undefined ? [[question.key, read.value]] : [];
    }),
  );
}

/** Where on the way the first question stands that somebody has not passed yet. */
export function firstNew(asked: readonly Question[], passed: readonly string[]): number {
  const at = asked.findIndex(({ key }) => !passed.includes(key));
  return at < 0 ? asked.length : at;
}

/** What a browser sent for a question, in the shape of an answer. */
function typed(question: Question, fields: Readonly<Record<string, unknown>>): unknown {
  const value = fields[nameOf(question.key)];
  if (question.type === 'several choices') return value === undefined ? [] : [value].flat();
  if (question.type === 'consent') return value === 'yes';
  return Array.isArray(value) ? value.at(-1) : value;
}

/** Where the page before another begins. */
function pageBefore(questions: readonly Question[], answers: Answers, at: number): number {
  let start = 0;
  for (;;) {
    const { length } = pageOf(questions, answers, start);
    if (length === 0 || start + length >= at) return start;
    start += length;
  }
}

/** @throws ProblemError for more fields than any page has */
export function readPage(body: unknown): Readonly<Record<string, unknown>> {
  const fields = typeof body === 'object' && body !== null ? (body as Record<string, unknown>) : {};
  if (Object.keys(fields).length > 200) throw new ProblemError(422, 'faulty', 'That is more than this page asks.');
  return fields;
}
