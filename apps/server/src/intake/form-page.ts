import { endOf, scaleOf, type Fault, type FormBody, type Question } from '@eager-sieve/core';
import { html, type Html } from '../http/html';
import { publicPage, type Look } from '../http/public-page';

/** What one page of a form shows. */
export interface FormPage {
  readonly name: string;
  /** whose it is, and in which colour, where the form has none of its own */
  readonly look: Look;
  readonly form: FormBody;
  /** where it is sent */
  readonly address: string;
  readonly questions: readonly Question[];
  /** what stands in them, as it was typed */
  readonly values: Readonly<Record<string, unknown>>;
  readonly faults: readonly Fault[];
  /** sent along, and not shown */
  readonly carried: Readonly<Record<string, string>>;
  readonly isFirst: boolean;
  readonly isLast: boolean;
  /** when it was begun, if this is somebody who has come back */
  readonly resumed: string | undefined;
  /** whether another version was published while somebody was answering */
  readonly isChanged: boolean;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
const paragraphs = (text: string): Html[] => text.split(/\n{2,}/).flatMap((each) => (each.trim() ? [html`<p>${each.trim()}</p>`] : []));

export function formPage(page: FormPage): string {
  const { name, look, form, questions, faults, carried, isFirst, isLast, resumed } = page;
  const title = faults.length > 0 ? `Not sent yet: ${name}` : name;
  const section = questions[0]?.section;
  const body = html`<h1>${name}</h1>
    ${isFirst && paragraphs(form.intro)}
    ${
      resumed !== undefined &&
      html`<p class="note" role="status">
        You began on ${resumed}, and this is where you were. <button class="plain" name="go" value="over" form="answers">Begin anew</button>
      </p>`
    }
    ${
      page.isChanged &&
      html`<p class="note" role="status">
        This form was changed while you were answering. What you have answered is kept, as far as it is still asked.
      </p>`
    }
    ${faults.length > 0 && faultList(questions, faults)}
    ${
      section &&
      html`<h2>${section.name}</h2>
        ${paragraphs(section.text ?? '')}`
    }
    <form method="post" action="${page.address}" novalidate id="answers">
      ${Object.entries(carried).map(([key, value]) => html`<input type="hidden" name="${key}" value="${value}" />`)}
      ${questions.map((question) => questionField(question, page.values[question.key], faultOf(question, faults)))}
      <p class="trap" aria-hidden="true">
        <label>Leave this empty <input name="website" tabindex="-1" autocomplete="off" /></label>
      </p>
      <p class="go">
        <button name="go" value="on">${isLast ? 'Send' : 'Go on'}</button>
        ${!isFirst && html`<button class="second" name="go" value="back">Back</button>`}
      </p>
    </form>`;
  return publicPage(title, body, { ...look, colour: form.colour ?? look.colour });
}

const faultOf = (question: Question, faults: readonly Fault[]): Fault | undefined => faults.find(({ path }) => path[0] === question.key);

const faultList = (questions: readonly Question[], faults: readonly Fault[]): Html => {
  const wrong = questions.flatMap((question) => {
    const fault = faultOf(question, faults);
    return fault ? [html`<li><a href="#${idOf(question)}">${question.label}</a> needs ${fault.expected}</li>`] : [];
  });
  return html`<div role="alert" class="faults" tabindex="-1">
    <p>Some answers are missing or not right. Nothing you wrote is lost.</p>
    <ul>
      ${wrong}
    </ul>
  </div>`;
};

const idOf = ({ key }: Question): string => `q-${key}`;

/** By which name an answer is sent. */
export const nameOf = (key: string): string => `q.${key}`;

function questionField(question: Question, value: unknown, fault: Fault | undefined): Html {
  const id = idOf(question);
  const described = [...(question.help ? [`${id}-help`] : []), ...(fault ? [`${id}-fault`] : [])].join(' ');
  const about = described === '' ? undefined : html` aria-describedby="${described}"`;
  const notes = html`${fault && html`<p class="fault" id="${id}-fault">${capital(fault.expected)}, please.</p>`}`;
  const help = question.help && html`<p class="help" id="${id}-help">${question.help}</p>`;
  const needed = question.required && html` <span class="needed">(needed)</span>`;
  const { options = [] } = question;
  switch (question.type) {
    case 'one choice':
    case 'several choices': {
      const type = question.type === 'one choice' ? 'radio' : 'checkbox';
      const chosen = [value].flat();
      return html`<fieldset${about}>
        <legend>${question.label}${needed}</legend>
        ${help}
        ${options.map(
          ({ key, name }, index) =>
            html`<label class="choice"
              ><input
                type="${type}"
                name="${nameOf(question.key)}"
                value="${key}"
                ${index === 0 && html` id="${id}"`}${chosen.includes(key) && html` checked`}
              />
              <span>${name}</span></label
            >`,
        )}
        ${notes}
      </fieldset>`;
    }
    case 'scale':
      return scaleField(question, value, { id, about, needed, help: help || undefined, notes });
    case 'consent':
      return html`<div class="question">
        <label class="choice"
          ><input type="checkbox" name="${nameOf(question.key)}" value="yes" id="${id}" ${about}${value === true && html` checked`} />
          <span>${question.label}${needed}</span></label
        >
        ${help}${notes}
      </div>`;
    case 'long text':
    case 'text':
    case 'number':
    case 'date':
    case 'phone':
    case 'email':
      return html`<div class="question">
        <label for="${id}">${question.label}${needed}</label>
        ${help}${textField(question, value, html`id="${id}" name="${nameOf(question.key)}"${about}${fault && html` aria-invalid="true"`}`)}${notes}
      </div>`;
    case 'hidden':
      return html``;
  }
}

interface Around {
  readonly id: string;
  readonly about: Html | undefined;
  readonly needed: Html | false;
  readonly help: Html | undefined;
  readonly notes: Html;
}

function scaleField(question: Question, value: unknown, { id, about, needed, help, notes }: Around): Html {
  const [low, high] = scaleOf(question);
  const steps = Array.from({ length: high - low + 1 }, (_, index) => low + index);
  const ends: Readonly<Record<number, string | undefined>> = { [low]: question.low, [high]: question.high };
  return html`<fieldset${about}>
    <legend>${question.label}${needed}</legend>
    ${help}
    <div class="scale">
      ${question.low && html`<span aria-hidden="true">${question.low}</span>`}
      ${steps.map(
        (step, index) =>
          html`<label
            ><input
              type="radio"
              name="${nameOf(question.key)}"
              value="${step}"
              ${index === 0 && html` id="${id}"`}${ends[step] && html` aria-label="${step}, ${ends[step]}"`}${String(value) === String(step) && html` checked`}
            />
            <span aria-hidden="true">${step}</span></label
          >`,
      )}
      ${question.high && html`<span aria-hidden="true">${question.high}</span>`}
    </div>
    ${notes}
  </fieldset>`;
}

function textField(question: Question, value: unknown, attributes: Html): Html {
  const text = typeof value === 'string' || typeof value === 'number' ? String(value) : '';
  const { min, max, earliest, latest } = question;
  switch (question.type) {
    case 'long text':
      return html`<textarea rows="5" maxlength="${max ?? 2_000}" ${attributes}>${text}</textarea>`;
    case 'number':
      return html`<input type="text" inputmode="decimal" ${attributes} value="${text}" />`;
    case 'date':
      return html`<input
        type="date"
        ${attributes}
        value="${text}"
        ${earliest && html` min="${earliest}"`}${latest && html` max="${latest}"`}
      />`;
    case 'phone':
      return html`<input type="tel" autocomplete="tel" ${attributes} value="${text}" />`;
    case 'email':
      return html`<input type="email" autocomplete="email" ${attributes} value="${text}" />`;
    case 'text':
    case 'one choice':
    case 'several choices':
    case 'scale':
    case 'consent':
    case 'hidden':
      return html`<input
        type="text"
        maxlength="${Math.min(max ?? 2_000, 2_000)}"
        ${min !== undefined && html` minlength="${min}"`}
        ${attributes}
        value="${text}"
      />`;
  }
}

/** What is said when a form has been sent. */
export function thanksPage(
  page: Pick<FormPage, 'name' | 'look' | 'form'> & { readonly outcome: string | null; readonly confirm: boolean },
): string {
  const end = endOf(page.form, page.outcome);
  const body = html`<h1>${end.name ?? page.name}</h1>
    <div role="status">
      ${paragraphs(end.thanks)}
      ${page.confirm && html`<p>If we need you to confirm that we may write to you, you get a message with a link for it.</p>`}
      ${end.url !== undefined && html`<p><a class="on" href="${end.url}">Go on</a></p>`}
    </div>`;
  return publicPage(page.name, body, { ...page.look, colour: page.form.colour ?? page.look.colour });
}
