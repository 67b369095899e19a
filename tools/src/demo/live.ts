import { once } from 'node:events';
import { stringify } from 'csv-stringify/sync';
import { type CloudEvent, type ImportView, type PostView, type TasksAnswer } from '@eager-sieve/contracts';
import { type RunningServer } from '../server';
import { say, ToldError } from '../say';
import { Chance } from './chance';
import { callsByKey, idle, type Call } from '../calls';
import { isFinder, loadTrade, putDeals, sendSignals, sessionOf, type SignIn } from './doors';
import { DEMO_PEOPLE } from './people';
import { SET_UP } from './set-up';
import { RULES } from './set-up/rules';
import { signalsOfDemo } from './signals';
import { CSV_COLUMNS, CSV_MAPPING, csvRows, makeContacts, type DemoContact } from './world';

const DAY_MS = 86_400_000;
const HOUR_MS = 3_600_000;
/** So many days the studio has had Eager Sieve. What happened before stands in its files. */
export const DAYS = 120;
/** On these days messages go out. */
const SENDS: Readonly<Record<number, string>> = {
  20: 'your-glaze-shelf',
  41: 'which-clay-are-you',
  62: 'your-glaze-shelf',
  83: 'which-clay-are-you',
  104: 'your-glaze-shelf',
  119: 'which-clay-are-you',
};
/** Files of people that came later than the first one, by day. */
const LATER_FILES: Readonly<Record<number, string>> = {
  18: 'spring-fair.csv',
  44: 'class-lists.csv',
  70: 'window-poster.csv',
  96: 'autumn-fair.csv',
};
/** So many of the last days are lived in so many steps each. */
const FINE_DAYS = 2;
const FINE_STEPS = 8;
const MENDED_ON = 60;
/** By hand some are put on the list of guests; later a few of them cannot come. */
const INVITED_ON = 12;
const DECLINED_ON = 110;
const GUESTS = 'kiln-opening';
const WRONG_FILE_ON = 88;
const TASKS_DONE_EVERY = 7;
/** Of the messages of one send so many are answered by hand of the post room. */
const MOST_ACTED = 120;
const REACT_AT_ONCE = 6;

interface LiveOptions {
  readonly server: RunningServer;
  readonly key: string;
  readonly size: number;
  /** when the story ends: now */
  readonly end: number;
  /** so many days are lived */
  readonly days?: number;
  /** who does by hand what people do: an admin */
  readonly admin?: SignIn;
  /** told how many days have been lived */
  readonly told?: (day: number) => void;
}

/**
 * Lets the demo live through its past, day by day at the clock of a server that stands still until it is told: so it has movement, history,
 * sends and edits like a place that has been at work. All of it goes through the same doors as real data.
 */
export async function liveDemo(options: LiveOptions): Promise<void> {
  await new Story(options).run();
}

/** Who comes with one of the later files. */
const isLater = (index: number): boolean => index % 8 === 3 && index !== 3;

class Story {
  readonly #chance = new Chance(120);
  readonly #server: RunningServer;
  readonly #call: Call;
  /** as the admin, in the browser */
  #byHand: Call;
  readonly #contacts: DemoContact[];
  readonly #end: number;
  readonly #days: number;
  readonly #admin: SignIn;
  readonly #told: (day: number) => void;

  constructor({ server, key, size, end, days = DAYS, admin = DEMO_PEOPLE[0], told = () => undefined }: LiveOptions) {
    this.#server = server;
    this.#call = callsByKey(server.url, key);
    this.#byHand = this.#call;
    this.#contacts = makeContacts(size);
    this.#end = end;
    this.#days = days;
    this.#admin = admin;
    this.#told = told;
  }

  async run(): Promise<void> {
    const contacts = this.#contacts;
    say(`the demo lives through its last ${this.#days} days: ${contacts.length} contacts`);
    await this.#signIn();
    await this.#call('PUT', '/api/v1/definitions', SET_UP);
    await this.#call('PUT', '/api/v1/definitions', withoutCare());
    const later = Object.keys(LATER_FILES).length;
    await this.#bring(
      'fernhollow-customers.csv',
      contacts.filter((_, index) => !isLater(index)),
    );
    const { companies, links, deals, steps: dealSteps } = await loadTrade(this.#call, contacts, this.#days);
    say(`${companies} companies, ${deals} deals`);
    const signals = signalsOfDemo(contacts, links, this.#end);
    let sent = 0;
    this.#told(0);
    for (let day = 1; day <= this.#days; day += 1) {
      const dawn = this.#end - (this.#days - day + 1) * DAY_MS;
      // What happened lately is told by the hour, so it is lived in smaller steps.
      const steps = day > this.#days - FINE_DAYS ? FINE_STEPS : 1;
      for (let step = 1; step <= steps; step += 1) {
        const now = dawn + (step * DAY_MS) / steps;
        await this.#moveTo(now);
        const until = new Date(now).toISOString();
        const first = sent;
        while (sent < signals.length && String(signals[sent]?.time) <= until) sent += 1;
        await this.#happen(signals.slice(first, sent), now === this.#end);
      }
      const file = LATER_FILES[day];
      if (file !== undefined) {
        await this.#signIn();
        const which = Object.values(LATER_FILES).indexOf(file);
        await this.#bring(
          file,
          contacts.filter((_, index) => isLater(index) && Math.floor(index / 8) % later === which),
        );
      }
      await putDeals(this.#call, dealSteps.get(day) ?? []);
      await this.#byHandOn(day);
      await idle(this.#call);
      this.#told(day);
      if (day % 30 === 0) say(`${day} days lived, ${sent} signals`);
    }
    say('everything worked: rules, scores, audiences');
  }

  async #happen(today: readonly CloudEvent[], isLast: boolean): Promise<void> {
    // The last answers come through the form itself.
    const answers = isLast ? today.filter(isFinder).slice(-12) : [];
    await sendSignals(
      this.#call,
      today.filter((signal) => !answers.includes(signal)),
    );
    for (const { data } of answers)
      await this.#call('POST', '/api/public/forms/find-your-clay/answers', {
        submission: crypto.randomUUID(),
        answers: (data as { answers: unknown }).answers,
      });
  }

  async #bring(name: string, contacts: readonly DemoContact[]): Promise<ImportView> {
    const csv = stringify(csvRows(contacts), { header: true, columns: [...CSV_COLUMNS] });
    const options = encodeURIComponent(JSON.stringify({ name, mapping: CSV_MAPPING }));
    const run = await this.#byHand<ImportView>('POST', `/api/app/imports?options=${options}`, csv, 'text/csv');
    say(`${name}: ${run.created} contacts in, ${run.faulty} rows refused`);
    return run;
  }

  /** What the people of the studio do themselves. */
  async #byHandOn(day: number): Promise<void> {
    const message = SENDS[day];
    if (
      message !== undefined ||
      SENDS[day - 1] !== undefined ||
      day === WRONG_FILE_ON ||
      day === INVITED_ON ||
      day === DECLINED_ON ||
      day % TASKS_DONE_EVERY === 0
    )
      await this.#signIn();
    if (message !== undefined) await this.#send(message);
    if (SENDS[day - 1] !== undefined) await this.#answerPosts();
    if (day === MENDED_ON) await this.#call('PUT', '/api/v1/definitions', RULES);
    if (day === WRONG_FILE_ON) await this.#wrongFile();
    if (day === INVITED_ON) await this.#putOnList(this.#guests(), true);
    if (day === DECLINED_ON)
      await this.#putOnList(
        this.#guests().filter((_, index) => index % 7 === 3),
        false,
      );
    if (day % TASKS_DONE_EVERY === 0) await this.#tickTasks();
  }

  #guests(): readonly DemoContact[] {
    return this.#contacts.filter((_, index) => !isLater(index) && index % 90 === 6);
  }

  async #putOnList(guests: readonly DemoContact[], isOn: boolean): Promise<void> {
    // Of few contacts nobody may be left who is asked, or who cannot come.
    if (guests.length === 0) return;
    await this.#byHand('PUT', '/api/v1/contacts', { contacts: guests.map(({ email }) => ({ email, lists: { [GUESTS]: isOn } })) });
  }

  /** Days go by in which nobody is signed in. */
  async #signIn(): Promise<void> {
    this.#byHand = await sessionOf(this.#server.url, this.#admin);
  }

  async #send(message: string): Promise<void> {
    await idle(this.#call);
    const { receive } = await this.#byHand<{ receive: number }>('GET', `/api/app/messages/${message}/recipients?again=true`, undefined);
    if (receive === 0) return;
    const { recipients } = await this.#byHand<{ recipients: number }>('POST', `/api/app/messages/${message}/send`, {
      expected: receive,
      again: true,
    });
    say(`${message} sent to ${recipients}`);
  }

  /** A day later some have opened, clicked, replied; some addresses are gone. */
  async #answerPosts(): Promise<void> {
    const posts = await this.#byHand<readonly PostView[]>('GET', '/api/app/post-room', undefined);
    const reactions = posts.slice(0, MOST_ACTED).map((post) => this.#reactionTo(post));
    for (let start = 0; start < reactions.length; start += REACT_AT_ONCE)
      await Promise.all(
        reactions.slice(start, start + REACT_AT_ONCE).map(async (steps) => {
          for (const step of steps) await step();
        }),
      );
  }

  /** What somebody does with a message, one after the other. */
  #reactionTo({ id, links, unsubscribe }: PostView): readonly (() => Promise<unknown>)[] {
    const act = (what: string) => (): Promise<unknown> => this.#byHand('POST', `/api/app/post-room/${id}/act`, { do: what });
    if (this.#chance.happens(0.02)) return [act('bounce')];
    if (!this.#chance.happens(0.55)) return [];
    const link = links.length > 0 && this.#chance.happens(0.4) ? this.#chance.pick(links) : undefined;
    if (link) return [act('open'), () => fetch(link.url, { redirect: 'manual' })];
    if (this.#chance.happens(0.06)) return [act('open'), act('reply')];
    if (unsubscribe && this.#chance.happens(0.01)) return [act('open'), () => fetch(unsubscribe, { method: 'POST' })];
    return [act('open')];
  }

  /** A list with the wrong towns comes in, and is taken back. */
  async #wrongFile(): Promise<void> {
    const wrong = this.#contacts.slice(100, 140).map((contact) => ({ ...contact, row: { ...contact.row, City: 'Nowhere' } }));
    const { id } = await this.#bring('towns-of-last-year.csv', wrong);
    await idle(this.#call);
    await this.#byHand('POST', `/api/app/imports/${id}/take-back`, {});
  }

  /** Some of the tasks are done, others wait until they are overdue. */
  async #tickTasks(): Promise<void> {
    await idle(this.#call);
    const { tasks } = await this.#byHand<TasksAnswer>('GET', '/api/v1/tasks', undefined);
    for (const task of tasks.slice(0, 30))
      if (this.#chance.happens(0.75)) await this.#byHand('PUT', `/api/v1/tasks/${task.id}`, { done: true });
  }

  async #moveTo(now: number): Promise<void> {
    const { child } = this.#server;
    const over = new AbortController();
    const moved = once(child, 'message', over);
    const ended = once(child, 'exit', over).then(() => {
      throw new ToldError('The server ended while the demo lived through its past.');
    });
    child.send({ moveTo: now });
    await Promise.race([moved, ended]).finally(() => over.abort());
  }
}

/** The rules as they first were: one of them did not look at who has a kiln. */
const withoutCare = (): typeof RULES => ({
  ...RULES,
  rules: (RULES.rules ?? []).map((rule) => {
    if (rule.key !== 'no-room-for-a-wheel') return rule;
    const { if: _if, ...careless } = rule as typeof rule & { if?: unknown };
    return careless;
  }),
});

/** When the clock of a story has to begin. */
export const beginning = (end: number, days = DAYS): number => end - days * DAY_MS - HOUR_MS;
