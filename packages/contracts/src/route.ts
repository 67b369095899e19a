import { type z } from 'zod';
import { type Capability } from './access.ts';

/** What a route can require of whoever calls it. */
export type Requirement = Capability | 'signed in';
/** Of several requirements, all have to be met. */
export type Access = 'public' | 'any key' | Requirement | readonly Requirement[];

/** The capabilities that a route requires; none where anyone may call it, or anyone with a key. */
export const capabilitiesOf = (access: Access): readonly Capability[] =>
  [access].flat().filter((each): each is Capability => each !== 'public' && each !== 'any key' && each !== 'signed in');

/** Whether a route is closed to whoever sees only their own contacts: it tells more than words, and is not narrowed to what is theirs. */
export const tellsOfOthers = ({ requires, own }: Pick<Route, 'requires' | 'own'>): boolean =>
  own === undefined && capabilitiesOf(requires).some((capability) => capability !== 'definitions:read');

/** One route of the server: its address, who may call it, what it takes and what it answers. */
export interface Route {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** the whole path; what varies stands in braces, as in `/api/v1/contacts/{id}` */
  readonly path: `/${string}`;
  /** what it does, as a sentence */
  readonly does: string;
  readonly requires: Access;
  /**
   * How it is narrowed for whoever sees only their own contacts: `contact`, if `{id}` is one of theirs; `narrowed`, if it answers
   * and changes only what is theirs. Where it is left out they may not call it, if it tells of contacts at all.
   */
  readonly own?: 'contact' | 'narrowed';
  /** the parts of the path that are not just text */
  readonly params?: z.ZodObject;
  readonly query?: z.ZodObject;
  readonly body?: z.ZodType;
  /** the part of the body whose items are read one by one: what is wrong with one refuses that one alone */
  readonly items?: string;
  /** the media types of the body, where it is not only JSON */
  readonly takes?: readonly string[];
  /** left out where the answer is empty, or no JSON */
  readonly answers?: z.ZodType;
  /** the media types of the answer, where it is not only JSON */
  readonly gives?: readonly string[];
  /** 200 where it is left out */
  readonly status?: number;
}

type NamesIn<Path extends string> = Path extends `${string}{${infer Name}}${infer Rest}` ? Name | NamesIn<Rest> : never;
type TextParams<R extends Route> = Readonly<Record<NamesIn<R['path']>, string>>;
type Empty = Readonly<Record<never, never>>;

/** What the server reads of a request by its row. */
export interface SentBy<R extends Route> {
  readonly params: R['params'] extends z.ZodType ? z.output<R['params']> : TextParams<R>;
  readonly query: R['query'] extends z.ZodType ? z.output<R['query']> : Empty;
  /** not read where it comes in media types of its own */
  readonly body: R['takes'] extends readonly string[] ? unknown : R['body'] extends z.ZodType ? z.output<R['body']> : undefined;
}

/** What a caller gives: the parts of the path and the query side by side, and the body. */
export type RequestOf<R extends Route> = (R['params'] extends z.ZodType ? z.input<R['params']> : TextParams<R>) &
  (R['query'] extends z.ZodType ? z.input<R['query']> : Empty) &
  (R['body'] extends z.ZodType ? { readonly body: z.input<R['body']> } : Empty);

export type AnswerOf<R extends Route> = R['answers'] extends z.ZodType ? z.output<R['answers']> : void;

/** The names in a path, in order: `id` of `/api/v1/contacts/{id}`. */
export const namesIn = (path: string): readonly string[] => [...path.matchAll(/\{(\w+)\}/g)].map((match) => match[1] as string);
