import { randomUUID } from 'node:crypto';
import { Controller, Req, Res } from '@nestjs/common';
import { Throttle } from '@nestjs/throttler';
import { endOf, pageOf, wayOf, type Definition, type Fault, type Question, type Workspace } from '@eager-sieve/core';
import { type Answer, type Sent } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { Database } from '../database/database';
import { type FormVisit } from '../database/entities';
import { html } from '../http/html';
import { lookOf, wordsPage, type Look } from '../http/public-page';
import { Handles, SentHere } from '../http/route';
import { DefinitionStore } from '../settings/definition-store';
import { formPage, nameOf, thanksPage } from './form-page';
import { firstNew, FormVisitsService, readPage, stillFitting, type SentPage } from './form-visits.service';
import { FormsService } from './forms.service';

const ANSWERS_A_MINUTE = Number(process.env['SIEVE_ANSWERS_A_MINUTE'] ?? 30);
/** Pages are looked at more often than they are sent. */
const PAGES_A_MINUTE = ANSWERS_A_MINUTE * 4;
const MONTH_MS = 30 * 86_400_000;

@Controller()
@Throttle({ default: { limit: ANSWERS_A_MINUTE, ttl: 60_000 } })
export class PublicFormsController {
  constructor(private readonly forms: FormsService) {}

  @Handles('publicForm')
  show(@SentHere() { params, query }: Sent<'publicForm'>) {
    return this.forms.show(params.key, query.me);
  }

  @Handles('answerForm')
  async answer(@SentHere() { params, body }: Sent<'answerForm'>, @Req() request: Request): Promise<Answer<'answerForm'>> {
    // Only a program fills in a field that nobody sees: it is thanked, and nothing is kept.
    if (body.website) return { thanks: 'Thank you.', confirm: false };
    const { submission, answers, me } = body;
    return this.forms.answer(params.key, { submission, answers, me, from: request.ip ?? '' });
  }
}

interface Opened {
  readonly embed?: string | undefined;
  readonly visit?: string | undefined;
  readonly at?: number | undefined;
  readonly changed?: string | undefined;
  readonly me?: string | undefined;
  readonly visitor?: string | undefined;
}

/** Forms as people fill them in, page by page. Nothing of it needs a script. */
@Controller()
@Throttle({ default: { limit: PAGES_A_MINUTE, ttl: 60_000 } })
export class FormPagesController {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly forms: FormsService,
    private readonly visits: FormVisitsService,
  ) {}

  @Handles('openForm')
  async open(@SentHere() { params, query }: Sent<'openForm'>, @Req() request: Request, @Res() response: Response): Promise<void> {
    const form = await this.forms.find(params.key);
    if (!form) return closed(response, await this.#look());
    const opener = await this.forms.opener(form, query.me);
    if (form.body.who === 'link' && !opener) {
      send(
        response,
        403,
        wordsPage(form.name, html`<p>This form opens by the link in a message that we sent you.</p>`, await this.#look()),
        query,
      );
      return;
    }
    const cookie = (request.cookies as Readonly<Record<string, string>>)[cookieOf(form)];
    const visit = await this.visits.find(form, query.visit ?? cookie);
    if (visit?.doneAt && query.visit !== undefined) return this.#thank(response, form, visit, query);
    const known = visit?.doneAt ? undefined : visit;
    if (!known) await this.visits.looked(form, (await this.#workspace()).timeZone);
    const email = form.body.questions.find(({ type }) => type === 'email')?.key;
    const isOld = known !== undefined && known.version !== form.version;
    const begun = known && isOld ? stillFitting(form.body.questions, known.answers) : known?.answers;
    const answers = { ...(opener && email ? { [email]: opener.email } : {}), ...begun };
    const { asked } = wayOf(form.body.questions, answers);
    const next = known && isOld ? firstNew(asked, known.asked) : (query.at ?? known?.asked.length ?? 0);
    await this.#show(response, form, query, {
      visit: known?.id ?? randomUUID(),
      at: Math.min(next, asked.length - 1),
      answers,
      hidden: hiddenIn(form, request.query),
      resumed: query.visit === undefined && known && known.asked.length > 0 ? known.begunAt : undefined,
      isChanged: isOld || query.changed !== undefined,
    });
  }

  @Handles('sendForm')
  @Throttle({ default: { limit: ANSWERS_A_MINUTE, ttl: 60_000 } })
  async take(@SentHere() { params, query, body }: Sent<'sendForm'>, @Req() request: Request, @Res() response: Response): Promise<void> {
    const form = await this.forms.find(params.key);
    if (!form) return closed(response, await this.#look());
    const fields = readPage(body);
    // Only a program fills in a field that nobody sees: it is thanked, and nothing is kept.
    if (fields['website']) return send(response, 200, await this.#thanks(form, null, false), query);
    const sent = sentPage(fields, query, request);
    const taken = await this.visits.take(form, sent);
    if ('faults' in taken) {
      const visit = await this.visits.find(form, sent.visit);
      await this.#show(response, form, query, {
        visit: sent.visit,
        at: sent.at,
        answers: visit?.answers ?? {},
        hidden: hiddenIn(form, fields, nameOf),
        resumed: undefined,
        isChanged: false,
        wrong: taken,
      });
      return;
    }
    if (sent.go !== 'over')
      response.cookie(cookieOf(form), sent.visit, {
        httpOnly: true,
        sameSite: 'lax',
        path: `/f/${form.key}`,
        maxAge: MONTH_MS,
        secure: request.secure,
      });
    const changed: Readonly<Record<string, string>> = taken.isChanged ? { changed: '1' } : {};
    const next: Readonly<Record<string, string>> = sent.go === 'over' ? {} : { visit: sent.visit, at: String(taken.at), ...changed };
    // Somebody who goes back in their browser, or loads a page anew, sends nothing twice.
    response.redirect(303, addressOf(form, query, next));
  }

  async #thank(response: Response, form: Definition<'form'>, visit: FormVisit, query: Opened): Promise<void> {
    const { thanks, url } = endOf(form.body, visit.outcome);
    // In a page of somebody else's another page may not be shown: there they go on by a click.
    if (url !== undefined && thanks.trim() === '' && query.embed === undefined && !visit.confirm) {
      response.redirect(303, url);
      return;
    }
    send(response, 200, await this.#thanks(form, visit.outcome, visit.confirm), query);
  }

  async #thanks(form: Definition<'form'>, outcome: string | null, confirm: boolean): Promise<string> {
    return thanksPage({ name: form.name, look: await this.#look(), form: form.body, outcome, confirm });
  }

  async #workspace(): Promise<Workspace> {
    return (await this.store.current(this.database)).compiled.catalogue.workspace;
  }

  async #look(): Promise<Look> {
    return lookOf(await this.#workspace());
  }

  async #show(response: Response, form: Definition<'form'>, query: Opened, shown: Shown): Promise<void> {
    const { questions } = form.body;
    const page = shown.wrong?.questions ?? pageOf(questions, shown.answers, Math.max(0, shown.at));
    const at = Math.max(0, shown.at);
    const last = isLast(form, page, shown.answers, at);
    const markup = formPage({
      name: form.name,
      look: await this.#look(),
      form: form.body,
      address: addressOf(form, query),
      questions: page,
      values: shown.wrong?.values ?? shown.answers,
      faults: shown.wrong?.faults ?? [],
      carried: {
        visit: shown.visit,
        at: String(at),
        version: String(form.version),
        shown: page.map(({ key }) => key).join(' '),
        ...(last ? { last: '1' } : {}),
        ...shown.hidden,
      },
      isFirst: at === 0,
      isLast: last,
      resumed: shown.resumed?.toLocaleDateString('en-GB', { day: 'numeric', month: 'long' }),
      isChanged: shown.isChanged,
    });
    send(response, shown.wrong ? 422 : 200, markup, query);
  }
}

interface Shown {
  readonly visit: string;
  readonly at: number;
  readonly answers: FormVisit['answers'];
  readonly hidden: Readonly<Record<string, string>>;
  readonly resumed: Date | undefined;
  readonly isChanged: boolean;
  readonly wrong?: {
    readonly faults: readonly Fault[];
    readonly questions: readonly Question[];
    readonly values: Readonly<Record<string, unknown>>;
  };
}

/** Whether a page is the last whatever is answered on it. */
function isLast(form: Definition<'form'>, page: readonly Question[], answers: FormVisit['answers'], at: number): boolean {
  const { asked } = wayOf(form.body.questions, answers);
  const last = page.at(-1);
  if (!last || at + page.length < asked.length) return false;
  // Where the way may still turn, nobody knows yet.
  return (
    !form.body.questions.some(({ askedIf }) => askedIf?.some(({ question }) => question === last.key)) &&
    !last.options?.some(({ next }) => next && 'question' in next)
  );
}

/** What hidden questions are given by the address, or were given by the page before. */
const hiddenIn = (form: Definition<'form'>, given: object, by?: (key: string) => string): Readonly<Record<string, string>> =>
  Object.fromEntries(
    form.body.questions.flatMap((question) => {
      const value =
        question.type === 'hidden'
          ? (given as Readonly<Record<string, unknown>>)[by?.(question.key) ?? question.parameter ?? '']
          : undefined;
      return typeof value === 'string' && value !== '' ? [[nameOf(question.key), value.slice(0, 300)]] : [];
    }),
  );

function sentPage(fields: Readonly<Record<string, unknown>>, query: Opened, request: Request): SentPage {
  const text = (key: string): string => (typeof fields[key] === 'string' ? fields[key] : '');
  const go = text('go');
  return {
    visit: /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(text('visit')) ? text('visit') : randomUUID(),
    at: /^\d{1,2}$/.test(text('at')) ? Number(text('at')) : 0,
    go: go === 'back' || go === 'over' ? go : 'on',
    version: /^\d{1,9}$/.test(text('version')) ? Number(text('version')) : undefined,
    shown: text('shown').split(' ').slice(0, 60),
    isLast: text('last') === '1',
    fields,
    me: query.me,
    visitor: query.visitor,
    from: request.ip ?? '',
  };
}

/** Where a form is opened and sent; who opens it, and where it stands, go along. */
function addressOf(form: Definition<'form'>, { me, embed, visitor }: Opened, more: Readonly<Record<string, string>> = {}): string {
  const query = new URLSearchParams({ ...more });
  for (const [name, value] of Object.entries({ me, embed, visitor })) if (value !== undefined) query.set(name, value);
  return `/f/${form.key}${query.size > 0 ? `?${query.toString()}` : ''}`;
}

/** By which cookie a browser is known that began a form. */
const cookieOf = (form: Definition<'form'>): string => `form-${form.id}`;

const closed = (response: Response, look: Look): void =>
  send(response, 404, wordsPage('This form is not open', html`<p>Whoever sent you here can tell you more.</p>`, look), {});

function send(response: Response, status: number, markup: string, { embed, me }: Opened): void {
  // A form may stand in a page of somebody else's, unless it knows who opened it.
  if (embed !== undefined && me === undefined) {
    response.removeHeader('X-Frame-Options');
    const policy = String(response.getHeader('Content-Security-Policy'));
    response.setHeader('Content-Security-Policy', policy.replace("frame-ancestors 'none'", 'frame-ancestors *'));
  }
  response.status(status).setHeader('Cache-Control', 'no-store').type('html').send(markup);
}
