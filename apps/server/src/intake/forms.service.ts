import { Injectable } from '@nestjs/common';
import { readAnswers, type Definition } from '@eager-sieve/core';
import { type PublicForm } from '@eager-sieve/contracts';
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
  ) {}

  async #published(key: string): Promise<Definition<'form'>> {
    const { compiled } = await this.store.current(this.database);
    const form = compiled.catalogue.find('form', key);
    if (!form || form.retired || !form.body.published) throw notFound('form');
    return form;
  }

  async show(key: string): Promise<PublicForm> {
    const form = await this.#published(key);
    return {
      key: form.key,
      name: form.name,
      intro: form.body.intro,
      questions: form.body.questions.map((question) => ({
        key: question.key,
        label: question.label,
        type: question.type,
        required: question.required,
        options: question.options ?? [],
      })),
    };
  }

  /** Takes an answer once: the same submission again is answered the same, and counts once. */
  async answer(key: string, submission: string, given: unknown): Promise<{ readonly thanks: string }> {
    const form = await this.#published(key);
    const answers = readAnswers(form.body.questions, given);
    if (!answers.ok) throw faulty(answers.faults, 'Some answers are missing or not right.');
    const emailQuestion = form.body.questions.find((question) => question.type === 'email');
    const email = emailQuestion && answers.value[emailQuestion.key];
    if (typeof email !== 'string')
      throw faulty([{ path: [emailQuestion?.key ?? 'email'], code: 'answer.missing', expected: 'your email address' }]);
    const { rejected } = await this.signals.take(
      [
        {
          specversion: '1.0',
          source: FORM_SOURCE,
          id: `${form.key}/${submission}`,
          type: 'form.answered',
          time: iso(this.clock.now()),
          subject: email,
          data: { form: form.key, version: form.version, answers: answers.value },
        },
      ],
      `form ${form.key}`,
    );
    if (rejected.length > 0) throw faulty(rejected);
    return { thanks: form.body.thanks };
  }
}
