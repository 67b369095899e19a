import { type Cause } from '../ledger/effect.ts';
import { type Arrival } from './arrival.ts';
import { type Compiled } from './compiled.ts';
import { lookedAtAgain, type Message } from './messages.ts';

/** Messages that work another subject: contacts of a company, or a company. */
export type ToOthers = Exclude<Message, { readonly kind: 'take turn' | 'send signal' }>;

/** What a message is to those whom it reaches. */
export function arrivalOf(compiled: Compiled, message: ToOthers, cause: Cause): Arrival {
  const { parent, hop } = message;
  switch (message.kind) {
    case 'change company':
      return { kind: 'edit', changes: message.changes, cause, parent, hop };
    case 'change contacts':
      return { kind: 'edit', changes: message.changes, ...(message.parts ? { parts: message.parts } : {}), cause, parent, hop };
    case 'tell contacts':
      return { kind: 'touch', on: message.on, cause, parent, hop };
    case 'tell company':
      return { kind: 'touch', on: lookedAtAgain(compiled), cause, parent, hop };
  }
}

/**
 * What waits to be worked in memory, in the order in which inboxes would have it: a company is looked at again once for all that its contacts
 * did, after everything else.
 */
export class Waiting<Step extends { readonly message: Message }> {
  readonly #steps: Step[] = [];
  readonly #marks = new Map<number, Step>();

  add(step: Step): void {
    const { message } = step;
    if (message.kind === 'tell company') this.#marks.set(message.company, step);
    else this.#steps.push(step);
  }

  next(): Step | undefined {
    const step = this.#steps.shift();
    if (step) return step;
    const [mark] = this.#marks;
    if (mark) this.#marks.delete(mark[0]);
    return mark?.[1];
  }
}
