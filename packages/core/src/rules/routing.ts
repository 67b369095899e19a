import { z } from 'zod';
import { conditionSchema, writtenConditionSchema } from '../conditions/schema.ts';
import { keySchema, nameSchema } from '../settings/keys.ts';
import { localDay, readDay, type Day, type Instant } from '../time/zone.ts';

const personSchema = z.string().trim().toLowerCase().min(3).max(254);
const daySchema = z.string().refine((text) => readDay(text) !== undefined, { message: 'a date like 2026-11-25' });

/** How much a person gets of what is handed out in turn; who is not named takes one turn like everybody else. */
const routingPersonSchema = z.strictObject({
  who: personSchema,
  /** turns taken while others take one */
  share: z.int().min(1).max(100).default(1),
  /** at most so many contacts a day, over all rows */
  perDay: z.int().min(1).max(10_000).optional(),
  /** takes none before this day */
  backOn: daySchema.optional(),
});
export type RoutingPerson = z.infer<typeof routingPersonSchema>;

/** Decides the owner of a contact: the first matching row in which somebody is free; if it names several, they take turns. */
const routingOver = <Condition extends z.ZodType>(condition: Condition) =>
  z
    .strictObject({
      rows: z
        .array(
          z
            .strictObject({
              key: keySchema,
              if: condition.optional(),
              owners: z.array(personSchema).max(100),
              /** whoever is in this team then, beside the owners */
              team: z.string().trim().min(1).max(80).optional(),
            })
            .refine(({ owners, team }) => owners.length > 0 || team !== undefined, { path: ['owners'], message: 'somebody, or a team' }),
        )
        .min(1)
        .max(200),
      people: z.array(routingPersonSchema).max(500).optional(),
      /** made for the owner that a contact is given */
      task: z.strictObject({ title: nameSchema.max(200), dueDays: z.int().min(0).max(365).default(0) }).optional(),
      /** sent to the owner that a contact is given */
      notice: z.string().trim().min(1).max(500).optional(),
    })
    .refine(({ rows }) => new Set(rows.map((row) => row.key)).size === rows.length, {
      path: ['rows'],
      message: 'rows with different keys',
    })
    .refine(({ people = [] }) => new Set(people.map((person) => person.who)).size === people.length, {
      path: ['people'],
      message: 'each person once',
    });

export const writtenRoutingSchema = routingOver(writtenConditionSchema);
export const routingBodySchema = routingOver(conditionSchema);
export type RoutingBody = z.infer<typeof routingBodySchema>;

declare module '../settings/definitions.ts' {
  interface Bodies {
    routing: RoutingBody;
  }
}

/** Where the turns of a row stand. */
export interface RowTurns {
  /** who took the last one */
  readonly last?: string | undefined;
  /** by person: how far ahead of the others they are in being due a turn */
  readonly credits: Readonly<Record<string, number>>;
}

/** Where the turns of a table stand. */
export interface Turns {
  readonly rows: ReadonlyMap<string, RowTurns>;
  /** by person: how many they were given on the last day on which they were given any */
  readonly given: ReadonlyMap<string, { readonly day: Day; readonly n: number }>;
}

export const NO_TURNS: Turns = { rows: new Map(), given: new Map() };

export interface TakenTurn {
  readonly row: string;
  readonly owner: string;
  /** how the turns stand afterwards */
  readonly turns: Turns;
}

type Table = Pick<RoutingBody, 'rows' | 'people'>;

/**
 * The table with the people of its teams named beside those who are named themselves.
 *
 * @param membersOf the addresses of whoever is in a team
 */
export const withTeams = <Of extends Table>(table: Of, membersOf: (team: string) => readonly string[]): Of => ({
  ...table,
  rows: table.rows.map((row) => (row.team === undefined ? row : { ...row, owners: [...new Set([...row.owners, ...membersOf(row.team)])] })),
});

/** Whether a person is limited in what they take, so that turns have to be counted. */
export const isLimited = ({ people = [] }: Table, who: string): boolean =>
  people.some((person) => person.who === who && (person.perDay !== undefined || person.backOn !== undefined));

/**
 * Whose turn it is: in the first of the rows in which somebody is free. Over as many turns as there are shares, everybody who is free all the
 * while takes just their share, as evenly spread as it goes; who was away is not owed what was handed out meanwhile.
 *
 * @param rows keys of rows of the table, in the order in which they are asked
 * @returns nothing where nobody is free in any of them
 */
export function takeTurn(table: Table, turns: Turns, rows: readonly string[], now: Instant, zone: string): TakenTurn | undefined {
  const day = localDay(now, zone);
  for (const key of rows) {
    const row = table.rows.find((each) => each.key === key);
    const free = (row?.owners ?? []).filter((who) => isFree(table, turns, who, day));
    const taken = taking(free, (who) => table.people?.find((person) => person.who === who)?.share ?? 1, turns.rows.get(key));
    if (!taken) continue;
    const before = turns.given.get(taken.last);
    const given = { day, n: before?.day === day ? before.n + 1 : 1 };
    return {
      row: key,
      owner: taken.last,
      turns: { rows: new Map(turns.rows).set(key, taken), given: new Map(turns.given).set(taken.last, given) },
    };
  }
  return undefined;
}

function isFree({ people = [] }: Table, { given }: Turns, who: string, day: Day): boolean {
  const { perDay = Infinity, backOn } = people.find((person) => person.who === who) ?? {};
  const back = backOn === undefined ? undefined : readDay(backOn);
  const today = given.get(who);
  return !(back !== undefined && day < back) && (today?.day === day ? today.n : 0) < perDay;
}

/** Everybody who is free is credited their share, and who has most credit takes the turn and pays for it what all were credited. */
function taking(
  free: readonly string[],
  shareOf: (who: string) => number,
  turns: RowTurns = { credits: {} },
): (RowTurns & { readonly last: string }) | undefined {
  const after = turns.last === undefined ? 0 : free.indexOf(turns.last) + 1;
  const inTurn = [...free.slice(after), ...free.slice(0, after)];
  const credits = { ...turns.credits };
  let all = 0;
  let due: string | undefined;
  for (const who of inTurn) {
    const credit = (Object.hasOwn(credits, who) ? (credits[who] ?? 0) : 0) + shareOf(who);
    credits[who] = credit;
    all += shareOf(who);
    if (due === undefined || credit > (credits[due] ?? 0)) due = who;
  }
  if (due === undefined) return undefined;
  credits[due] = (credits[due] ?? 0) - all;
  return { last: due, credits };
}
