import { Injectable } from '@nestjs/common';
import { endOf, fold, readAnswers, type Answers, type Definition } from '@eager-sieve/core';
import { type Answer, type PublicForm } from '@eager-sieve/contracts';
import { ConsentRequestsService } from '../campaigns/consent-requests.service';
import { readFormToken } from '../campaigns/tokens';
import { Database, type Transaction } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { faulty, notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { SiteService } from './site.service';
import { SignalsService } from './signals.service';

export const FORM_SOURCE = 'forms';

/** The public side of forms: what a visitor sees, and the answer that becomes a signal. */
@Injectable()
export class FormsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly signals: SignalsService,
    private readonly clock: ServerClock,
    private readonly consents: ConsentRequestsService,
    private readonly site: SiteService,
  ) {}

  /** A form that is published. */
  async find(key: string): Promise<Definition<'form'> | undefined> {
    const { compiled } = await this.store.current(this.database);
    const form = compiled.catalogue.find('form', key);
    return form && !form.retired && form.body.published ? form : undefined;
  }

  async #published(key: string): Promise<Definition<'form'>> {
    const form = await this.find(key);
    if (!form) throw notFound('form');
    return form;
  }

  /** @param me from a link that was sent to a contact */
  async show(key: string, me: string | undefined): Promise<PublicForm> {
    const form = await this.#published(key);
    return {
      key: form.key,
      name: form.name,
      intro: form.body.intro,
      email: (await this.opener(form, me))?.email ?? null,
      questions: form.body.questions.map((question) => ({
        key: question.key,
        label: question.label,
        type: question.type,
        required: question.required,
        options: (question.options ?? []).map(({ key: choice, name }) => ({ key: choice, name })),
        help: question.help,
        min: question.min,
        max: question.max,
        earliest: question.earliest,
        latest: question.latest,
        low: question.low,
        high: question.high,
        parameter: question.parameter,
      })),
    };
  }

  /** The contact whose own link a form was opened by. */
  async opener(form: Definition<'form'>, me: string | undefined): Promise<{ readonly email: string } | undefined> {
    if (me === undefined) return undefined;
    const [workspace] = await this.database.query<{ secret: string }>('select secret from workspace where id = 1');
    const token = readFormToken(me, workspace?.secret ?? '', this.clock.now());
    if (token?.form !== form.key) return undefined;
    const [contact] = await this.database.query<{ email: string | null }>('select email from contact where uid = $1::uuid', [
      token.contactUid,
    ]);
    return contact?.email ? { email: contact.email } : undefined;
  }

  /**
   * Takes an answer once: the same submission again is answered the same, and counts once.
   *
   * @param also written with the answer, or not at all
   */
  async answer(
    key: string,
    { submission, answers: given, me, visitor, from }: FormAnswer,
    also?: (sql: Transaction, thanks: Answer<'answerForm'>) => Promise<void>,
  ): Promise<Answer<'answerForm'>> {
    const form = await this.#published(key);
    const read = readAnswers(form.body.questions, given);
    if (!read.ok) throw faulty(read.faults, 'Some answers are missing or not right.');
    const { answers, way } = read.value;
    const opener = await this.opener(form, me);
    const email = form.body.who === 'link' ? opener?.email : emailIn(form, answers);
    if (email === undefined)
      throw faulty([{ path: ['me'], code: 'answer.link', expected: 'the link by which this form was sent, which says who answers' }]);
    const isUnproven = opener === undefined || fold(opener.email) !== fold(email);
    const ticked = way.asked.filter((question) => question.type === 'consent' && answers[question.key] === true);
    const { compiled } = await this.store.current(this.database);
    // The same for everybody: whether somebody has withdrawn their consent is nothing to tell to whoever types their address.
    const end = endOf(form.body, way.end);
    const thanks = {
      thanks: end.thanks,
      ...(end.key === undefined ? {} : { outcome: end.key }),
      ...(end.url === undefined ? {} : { url: end.url }),
      confirm: isUnproven && ticked.length > 0 && form.body.confirmConsent !== 'never',
    };
    const first = visitor === undefined ? {} : await this.site.firstOf(visitor);
    const { rejected, contactIds } = await this.signals.take(
      [
        {
          specversion: '1.0',
          source: FORM_SOURCE,
          id: `${form.key}/${submission}`,
          type: 'form.answered',
          time: iso(this.clock.now()),
          subject: email,
          data: { form: form.key, version: form.version, answers, ...first, ...(isUnproven ? { unproven: true } : {}) },
        },
      ],
      `form ${form.key}`,
      async (sql, [contactId]) => {
        if (contactId === undefined) return;
        await also?.(sql, thanks);
        if (!isUnproven || ticked.length === 0) return;
        const questions = ticked.map(({ label, channel = 'email' }) => ({ label, channel }));
        const [contact] = await sql.query<{ email: string | null }>('select email from contact where id = $1', [contactId]);
        const address = contact?.email ?? email;
        await this.consents.ask(sql, { form, contactId, address, from, workspace: compiled.catalogue.workspace.name, questions });
      },
    );
    if (rejected.length > 0) throw faulty(rejected);
    const [contactId] = contactIds;
    if (visitor !== undefined && contactId !== undefined) await this.site.recognise(visitor, contactId, email);
    return thanks;
  }
}

function emailIn(form: Definition<'form'>, answers: Answers): string {
  const question = form.body.questions.find(({ type }) => type === 'email');
  const email = question && answers[question.key];
  if (typeof email === 'string') return email;
  throw faulty([{ path: [question?.key ?? 'email'], code: 'answer.missing', expected: 'your email address' }]);
}

interface FormAnswer {
  readonly submission: string;
  readonly answers: unknown;
  readonly me: string | undefined;
  /** of a site, who came to the form from there */
  readonly visitor?: string | undefined;
  /** the network address of whoever answers */
  readonly from: string;
}
