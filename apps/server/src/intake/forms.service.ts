import { Injectable } from '@nestjs/common';
import { fold, readAnswers, type Definition } from '@eager-sieve/core';
import { type Answer, type PublicForm } from '@eager-sieve/contracts';
import { ConsentRequestsService } from '../campaigns/consent-requests.service';
import { readFormToken } from '../campaigns/tokens';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { faulty, notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
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
  ) {}

  async #published(key: string): Promise<Definition<'form'>> {
    const { compiled } = await this.store.current(this.database);
    const form = compiled.catalogue.find('form', key);
    if (!form || form.retired || !form.body.published) throw notFound('form');
    return form;
  }

  /** @param me from a link that was sent to a contact */
  async show(key: string, me: string | undefined): Promise<PublicForm> {
    const form = await this.#published(key);
    return {
      key: form.key,
      name: form.name,
      intro: form.body.intro,
      email: (await this.#opener(form, me))?.email ?? null,
      questions: form.body.questions.map((question) => ({
        key: question.key,
        label: question.label,
        type: question.type,
        required: question.required,
        options: question.options ?? [],
      })),
    };
  }

  /** The contact whose own link a form was opened by. */
  async #opener(form: Definition<'form'>, me: string | undefined): Promise<{ readonly email: string } | undefined> {
    if (me === undefined) return undefined;
    const [workspace] = await this.database.query<{ secret: string }>('select secret from workspace where id = 1');
    const token = readFormToken(me, workspace?.secret ?? '', this.clock.now());
    if (token?.form !== form.key) return undefined;
    const [contact] = await this.database.query<{ email: string | null }>('select email from contact where uid = $1::uuid', [
      token.contactUid,
    ]);
    return contact?.email ? { email: contact.email } : undefined;
  }

  /** Takes an answer once: the same submission again is answered the same, and counts once. */
  async answer(key: string, { submission, answers: given, me, from }: FormAnswer): Promise<Answer<'answerForm'>> {
    const form = await this.#published(key);
    const answers = readAnswers(form.body.questions, given);
    if (!answers.ok) throw faulty(answers.faults, 'Some answers are missing or not right.');
    const emailQuestion = form.body.questions.find((question) => question.type === 'email');
    const email = emailQuestion && answers.value[emailQuestion.key];
    if (typeof email !== 'string')
      throw faulty([{ path: [emailQuestion?.key ?? 'email'], code: 'answer.missing', expected: 'your email address' }]);
    const opener = await this.#opener(form, me);
    const isUnproven = opener === undefined || fold(opener.email) !== fold(email);
    const ticked = form.body.questions.filter((question) => question.type === 'consent' && answers.value[question.key] === true);
    const { compiled } = await this.store.current(this.database);
    const { rejected } = await this.signals.take(
      [
        {
          specversion: '1.0',
          source: FORM_SOURCE,
          id: `${form.key}/${submission}`,
          type: 'form.answered',
          time: iso(this.clock.now()),
          subject: email,
          data: { form: form.key, version: form.version, answers: answers.value, ...(isUnproven ? { unproven: true } : {}) },
        },
      ],
      `form ${form.key}`,
      async (sql, [contactId]) => {
        if (contactId === undefined || !isUnproven || ticked.length === 0) return;
        const questions = ticked.map(({ label, channel = 'email' }) => ({ label, channel }));
        const [contact] = await sql.query<{ email: string | null }>('select email from contact where id = $1', [contactId]);
        const address = contact?.email ?? email;
        await this.consents.ask(sql, { form, contactId, address, from, workspace: compiled.catalogue.workspace.name, questions });
      },
    );
    if (rejected.length > 0) throw faulty(rejected);
    // The same for everybody: whether somebody has withdrawn their consent is nothing to tell to whoever types their address.
    return { thanks: form.body.thanks, confirm: isUnproven && ticked.length > 0 && form.body.confirmConsent !== 'never' };
  }
}

interface FormAnswer {
  readonly submission: string;
  readonly answers: unknown;
  readonly me: string | undefined;
  /** the network address of whoever answers */
  readonly from: string;
}
