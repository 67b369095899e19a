import { writtenRuleSchema } from '@eager-sieve/core';
import { z } from 'zod';
import { type FaultView } from './problems.ts';

/** What only the product's own interface asks for. */
export const rehearseRuleSchema = z.strictObject({ key: z.string().max(80).optional(), rule: writtenRuleSchema });
export interface RuleRehearsal {
  /** how many pass each step, in order */
  readonly steps: readonly { readonly words: string; readonly count: number }[];
  readonly touched: number;
  readonly changes: Readonly<Record<string, number>>;
  /** the first of those whom it touches, one by one */
  readonly samples: readonly {
    /** the id of the contact, or of the company where the rule is for companies */
    readonly id: string;
    readonly name: string;
    readonly changes: readonly string[];
    readonly setsOff: readonly string[];
  }[];
  /** how often it fires: on the average of the last eight weeks, or, for a date, in the coming one. Null where nobody can say */
  readonly pace: { readonly times: number; readonly of: 'a week, lately' | 'the coming week' } | null;
  readonly everyone: boolean;
}

export interface ImportView {
  readonly id: number;
  readonly name: string;
  readonly state: 'running' | 'done' | 'failed' | 'cancelled';
  readonly bytes: number;
  readonly bytesRead: number;
  readonly rows: number;
  readonly created: number;
  readonly updated: number;
  readonly unchanged: number;
  readonly faulty: number;
  readonly faults: readonly { readonly row: number; readonly faults: readonly FaultView[] }[];
  readonly error: string | null;
  readonly startedAt: string;
  readonly finishedAt: string | null;
  readonly by: string | null;
}
export const importOptionsSchema = z.strictObject({
  name: z.string().max(200).default('contacts.csv'),
  /** the column of each target: `email`, `outsideId`, `name` (a full name), `field:KEY`, `tag:KEY` (yes or no, or the value it carries), `consent:email` */
  mapping: z.record(z.string().max(120), z.string().max(300)),
  onExisting: z.enum(['update', 'skip']).default('update'),
  separator: z.enum([',', ';', '\t']).default(','),
  addTags: z.array(z.string().max(80)).max(20).default([]),
});
export type ImportOptions = z.infer<typeof importOptionsSchema>;

/** A rule that went in a circle with others, and is held back for those with whom it did. */
export interface CircleView {
  readonly key: string;
  readonly name: string;
  /** for how many contacts or companies it is held back */
  readonly held: number;
  readonly of: 'contact' | 'company';
  readonly since: string;
  /** the rules that went round with it where that happened last */
  readonly with: readonly { readonly key: string; readonly name: string }[];
}

export interface TodayView {
  readonly since: string;
  readonly contacts: number;
  readonly flow: {
    readonly signals: number;
    readonly tagsAdded: number;
    readonly tagsRemoved: number;
    readonly rulesRan: number;
    readonly bandsCrossed: number;
    readonly joined: number;
    readonly left: number;
    readonly sent: number;
  };
  readonly moved: readonly {
    readonly key: string;
    readonly name: string;
    /** whom it is of */
    readonly of: 'contact' | 'company';
    readonly members: number;
    readonly came: number;
    readonly left: number;
  }[];
  readonly attention: readonly { readonly kind: string; readonly words: string; readonly link: string }[];
  readonly signalsByHour: readonly { readonly hour: string; readonly signals: number }[];
}

export interface RecipientsView {
  readonly audience: string;
  /** a change of definitions is being brought to everyone: the figures still move, and nothing is sent */
  readonly building: boolean;
  readonly members: number;
  /** of the members, how many got this message before, and when it last went out to any of them */
  readonly already: { readonly people: number; readonly last: string | null };
  readonly receive: number;
  readonly held: Readonly<Record<string, number>>;
  /** how many of either kind go by what was searched for; `people` are the first of each */
  readonly found: { readonly receive: number; readonly held: number };
  readonly people: readonly {
    readonly id: string;
    readonly name: string;
    readonly email: string | null;
    readonly state: 'receives' | 'held back';
    readonly why: string | null;
    readonly preview?: { readonly subject: string; readonly text: string };
  }[];
}
/** So many of the latest sends are listed. */
export const SENDS_SHOWN = 50;
export const sendSchema = z.strictObject({ expected: z.int().min(0), again: z.boolean().default(false) });
export interface SendView {
  readonly id: number;
  readonly message: string;
  readonly messageName: string;
  readonly at: string;
  readonly by: string | null;
  readonly audienceName: string;
  readonly recipients: number;
  readonly sent: number;
  readonly heldBack: number;
  readonly inDoubt: number;
  readonly opened: number;
  readonly clicked: number;
  readonly unsubscribed: number;
}

export interface PostView {
  readonly id: number;
  readonly to: string;
  readonly contact: string;
  readonly name: string;
  readonly subject: string;
  readonly at: string;
  readonly text: string;
  readonly links: readonly { readonly key: string; readonly label: string; readonly url: string }[];
  readonly unsubscribe: string;
  readonly opened: boolean;
}
/** So many of the latest are listed; a search finds those before them. */
export const POSTS_SHOWN = 60;
export const postActionSchema = z.strictObject({ do: z.enum(['open', 'reply', 'bounce']) });

export interface TraceView {
  readonly title: string;
  readonly since: string | null;
  readonly until: string | null;
  readonly steps: readonly { readonly title: string; readonly detail: string; readonly at: string; readonly link: string | null }[];
  readonly also: readonly { readonly words: string }[];
  readonly before: readonly { readonly words: string }[];
  /** the effect in the ledger that is taken back with all that came of it: that a rule ran, or else what was done by hand */
  readonly takeBack: number | null;
}

/** How many deals stand in each band of a scorecard, by the key of the band; a band in which none stands is left out. */
export interface DealBands {
  readonly of: number;
  readonly bands: Readonly<Record<string, number>>;
}

export interface SearchHit {
  readonly kind: string;
  readonly key: string;
  readonly name: string;
  readonly detail: string;
  readonly link: string;
}

export interface PublicForm {
  readonly key: string;
  readonly name: string;
  readonly intro: string;
  readonly questions: readonly {
    readonly key: string;
    readonly label: string;
    readonly type: string;
    readonly required: boolean;
    readonly options: readonly { readonly key: string; readonly name: string }[];
  }[];
}
/** An answer to a public form. The same `submission` again is the same answer; `website` is a trap that people do not see. */
export const formAnswerSchema = z.strictObject({
  submission: z.uuid(),
  answers: z.record(z.string().max(60), z.unknown()),
  website: z.string().max(200).optional(),
});

/** What the server tells open pages: what moved, and whom it concerned, never what it says about them. */
export interface FeedEvent {
  readonly topics: readonly string[];
  readonly contacts: readonly string[];
  readonly counts: Readonly<Record<string, number>>;
}
export interface LiveSignal {
  readonly id: number;
  readonly time: string;
  readonly type: string;
  readonly verb: string;
  readonly summary: string;
  readonly contact: string;
  readonly name: string;
  readonly source: string;
}
