import { Controller, Res } from '@nestjs/common';
import { stringify } from 'csv-stringify';
import { type Sent } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, ownOf, type Caller } from '../settings/access';
import { AuditService } from '../ledger/audit.service';
import { FormResultsService } from './form-results.service';
import { FormTrialsService } from './form-trials.service';

/** Forms behind their pages: what is answered, and what an answer would do. */
@Controller()
export class FormsController {
  constructor(
    private readonly forms: FormResultsService,
    private readonly trials: FormTrialsService,
    private readonly audit: AuditService,
  ) {}

  @Handles('formResults')
  results(@SentHere() { params, query }: Sent<'formResults'>) {
    return this.forms.results(params.key, query.days);
  }

  @Handles('formAnswers')
  async answers(@SentHere() { params, query }: Sent<'formAnswers'>, @Res() response: Response, @CallerIs() caller: Caller): Promise<void> {
    const { format, ...page } = query;
    if (format === undefined) {
      response.json(await this.forms.answers(params.key, page));
      return;
    }
    const { name: form, questions } = await this.forms.form(params.key);
    await this.audit.record('answers exported', { name: form }, callerRef(caller));
    response.type('text/csv; charset=utf-8').setHeader('Content-Disposition', `attachment; filename="${params.key}.csv"`);
    const csv = stringify({ header: true, columns: ['name', 'at', 'version', ...questions.map(({ key }) => key)], escape_formulas: true });
    csv.pipe(response);
    for (let after: string | undefined; ;) {
      const { rows, after: next } = await this.forms.answers(params.key, { limit: 500, after });
      for (const { name, at, version, answers } of rows)
        csv.write({ name, at, version, ...Object.fromEntries(questions.map(({ key }) => [key, cellOf(answers[key])])) });
      if (next === null) break;
      after = next;
    }
    csv.end();
  }

  @Handles('tryForm')
  try(@SentHere() { body }: Sent<'tryForm'>, @CallerIs() caller: Caller) {
    return this.trials.try(body.key, body.form, body.answers, ownOf(caller));
  }

  @Handles('rehearseAnswerMap')
  rehearse(@SentHere() { body }: Sent<'rehearseAnswerMap'>) {
    return this.trials.rehearse(body.key, body.form);
  }

  @Handles('mapAgain')
  mapAgain(@SentHere() { params }: Sent<'mapAgain'>, @CallerIs() caller: Caller) {
    return this.trials.apply(params.key, callerRef(caller));
  }
}

const cellOf = (answer: unknown): string => {
  if (answer === undefined || answer === null) return '';
  if (Array.isArray(answer)) return answer.map(String).join(';');
  return typeof answer === 'boolean'
    ? answer
      ? 'yes'
      : 'no'
    : typeof answer === 'string' || typeof answer === 'number'
      ? String(answer)
      : '';
};
