import { type TraceSubject } from './trace';
import { type DefinitionKind, type DefinitionsDocument, type WrittenCondition, type WrittenDocument } from '@eager-sieve/core';
import type {
  AudienceView,
  BuildView,
  CatalogueView,
  CircleView,
  CompaniesAnswer,
  CompanyView,
  ContactView,
  CountAnswer,
  DealBands,
  DefinitionsAnswer,
  DefinitionVersion,
  ExplainAnswer,
  ImportView,
  KeyView,
  Ledger,
  LiveSignal,
  MergeAnswer,
  Movements,
  PeopleAnswer,
  PersonName,
  PersonView,
  PinsAnswer,
  PostView,
  PublicForm,
  PutContacts,
  PutPin,
  PutCompanies,
  PutCompaniesAnswer,
  PutContactsAnswer,
  PutDeals,
  PutDealsAnswer,
  RecipientsView,
  RuleRehearsal,
  SearchHit,
  SendView,
  SessionView,
  SignIn,
  Status,
  SteerBuild,
  TakeBackAnswer,
  Timeline,
  TodayView,
  TraceView,
  TryAnswer,
  TrySignal,
  ChangeTask,
  NewTask,
  NoticesAnswer,
  TasksAnswer,
  TaskView,
} from '@eager-sieve/contracts';
import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react';

/** What the pages keep of the server's answers, by what makes them stale. */
export const STALE_BY = [
  'Session',
  'Catalogue',
  'Contact',
  'People',
  'Audience',
  'Count',
  'Today',
  'Stream',
  'Ledger',
  'Import',
  'Send',
  'Post',
  'Key',
  'Person',
  'Status',
  'Rehearsal',
  'Task',
] as const;

/** As much of an OpenAPI document as the page of it shows. */
export interface OpenApiSchema {
  readonly type?: string | readonly string[];
  readonly description?: string;
  readonly properties?: Readonly<Record<string, OpenApiSchema>>;
  readonly items?: OpenApiSchema;
  readonly required?: readonly string[];
  readonly enum?: readonly (string | number | boolean | null)[];
  readonly const?: string | number | boolean;
  readonly anyOf?: readonly OpenApiSchema[];
}
type Content = Readonly<Record<string, { readonly schema: OpenApiSchema }>>;
export interface OpenApi {
  readonly info: { readonly description?: string };
  readonly paths: Readonly<
    Record<
      string,
      Readonly<
        Record<
          string,
          {
            readonly summary: string;
            readonly security: readonly Readonly<Record<string, readonly string[]>>[];
            readonly parameters?: readonly { readonly name: string; readonly in: string; readonly description?: string }[];
            readonly requestBody?: { readonly content: Content };
            readonly responses: Readonly<Record<string, { readonly content?: Content }>>;
          }
        >
      >
    >
  >;
}

type AudienceSubject = 'contact' | 'company';
/** A list beside one top line of conditions. */
export interface BesideLine {
  readonly line: number;
  readonly list: 'limit' | 'empty' | 'never';
}

/** Handed back with every change; set when someone signs in. */
let csrf = '';
export const rememberCsrf = (token: string): void => {
  csrf = token;
};

const baseUrl = typeof location === 'undefined' ? 'http://localhost/' : `${location.origin}/`;

/** Which tasks: of one person with what is for anyone, about one contact or company, open or done. */
export interface TasksAsked {
  readonly for?: string;
  readonly contact?: string;
  readonly company?: string;
  readonly state?: 'open' | 'done';
  readonly limit?: number;
}

/** What can be taken back: an effect in the ledger, all that a rule did, all that an import did. */
export type Taken = { readonly effect: number } | { readonly rule: string } | { readonly import: number };
const takeBackOf = (what: Taken): { url: string; method: string; body?: object } => {
  if ('rule' in what) return { url: `api/v1/rules/${what.rule}/take-back`, method: 'POST', body: {} };
  return { url: 'import' in what ? `api/app/imports/${what.import}/take-back` : `api/v1/ledger/${what.effect}/take-back`, method: 'POST' };
};

export const api = createApi({
  reducerPath: 'api',
  baseQuery: fetchBaseQuery({
    baseUrl,
    credentials: 'same-origin',
    prepareHeaders: (headers) => {
      if (csrf) headers.set('x-csrf-token', csrf);
    },
  }),
  tagTypes: STALE_BY,
  keepUnusedDataFor: 30,
  endpoints: (build) => ({
    session: build.query<SessionView, void>({
      query: () => 'api/app/session',
      providesTags: ['Session'],
      onQueryStarted: (_none, { queryFulfilled }) => void queryFulfilled.then(({ data }) => rememberCsrf(data.csrf)).catch(() => undefined),
    }),
    signIn: build.mutation<SessionView, SignIn>({
      query: (body) => ({ url: 'api/app/session', method: 'POST', body }),
      onQueryStarted: (_body, { queryFulfilled }) => void queryFulfilled.then(({ data }) => rememberCsrf(data.csrf)).catch(() => undefined),
      invalidatesTags: ['Session'],
    }),
    signOut: build.mutation<void, void>({ query: () => ({ url: 'api/app/session', method: 'DELETE' }) }),
    catalogue: build.query<CatalogueView, void>({ query: () => 'api/app/catalogue', providesTags: ['Catalogue'] }),
    putDefinitions: build.mutation<DefinitionsAnswer, WrittenDocument>({
      query: (body) => ({ url: 'api/v1/definitions', method: 'PUT', body }),
      invalidatesTags: ['Catalogue', 'Audience', 'Today', 'Status', 'Session'],
    }),
    versions: build.query<DefinitionVersion[], { kind: DefinitionKind; key: string }>({
      query: ({ kind, key }) => `api/app/definitions/${kind}/${key}/versions`,
      providesTags: ['Catalogue'],
    }),
    document: build.query<DefinitionsDocument, void>({ query: () => 'api/v1/definitions', providesTags: ['Catalogue'] }),
    openApi: build.query<OpenApi, void>({ query: () => 'api/v1/openapi.json' }),
    mergeContact: build.mutation<MergeAnswer, { contact: string; other: string }>({
      query: ({ contact, other }) => ({ url: `api/v1/contacts/${contact}/merge`, method: 'POST', body: { other } }),
      invalidatesTags: ['Contact', 'People', 'Count', 'Audience', 'Ledger'],
    }),
    partContact: build.mutation<void, number>({
      query: (merge) => ({ url: `api/v1/merges/${merge}/take-back`, method: 'POST' }),
      invalidatesTags: ['Contact', 'People', 'Count', 'Audience', 'Ledger'],
    }),
    eraseContact: build.mutation<void, string>({
      query: (contact) => ({ url: `api/v1/contacts/${contact}`, method: 'DELETE' }),
      invalidatesTags: ['People', 'Count', 'Audience', 'Ledger', 'Today'],
    }),
    status: build.query<Status, void>({ query: () => 'api/v1/status', providesTags: ['Status'] }),
    steerBuild: build.mutation<BuildView, SteerBuild & { id: number }>({
      query: ({ id, ...body }) => ({ url: `api/v1/builds/${id}`, method: 'PUT', body }),
      invalidatesTags: ['Status', 'Audience', 'Ledger'],
    }),
    today: build.query<TodayView, void>({ query: () => 'api/app/today', providesTags: ['Today'] }),
    stream: build.query<LiveSignal[], void>({ query: () => 'api/app/stream', providesTags: ['Stream'] }),
    search: build.query<SearchHit[], string>({ query: (q) => ({ url: 'api/app/search', params: { q } }) }),
    people: build.infiniteQuery<
      PeopleAnswer,
      { condition: WrittenCondition; of?: AudienceSubject; search?: string; missedBy?: number; beside?: BesideLine; limit?: number },
      string | null
    >({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: (last) => last.after ?? undefined },
      query: ({ queryArg, pageParam }) => ({
        url: 'api/v1/audiences/people',
        method: 'POST',
        body: { limit: 100, ...queryArg, ...(pageParam ? { after: pageParam } : {}) },
      }),
      providesTags: ['People'],
    }),
    count: build.query<CountAnswer, { condition: WrittenCondition; of?: AudienceSubject; sieve?: boolean }>({
      query: (body) => ({ url: 'api/v1/audiences/count', method: 'POST', body }),
      providesTags: ['Count'],
    }),
    explain: build.query<ExplainAnswer, { condition: WrittenCondition; of?: AudienceSubject; contact?: string; company?: string }>({
      query: (body) => ({ url: 'api/v1/audiences/explain', method: 'POST', body }),
      providesTags: ['Contact'],
    }),
    contact: build.query<ContactView, string>({
      query: (id) => `api/v1/contacts/${encodeURIComponent(id)}`,
      providesTags: (_r, _e, id) => [{ type: 'Contact', id }, 'Contact'],
    }),
    timeline: build.infiniteQuery<Timeline, string, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: (last) => last.after ?? undefined },
      query: ({ queryArg, pageParam }) => ({
        url: `api/v1/contacts/${encodeURIComponent(queryArg)}/signals`,
        params: { limit: 40, ...(pageParam ? { after: pageParam } : {}) },
      }),
      providesTags: ['Contact'],
    }),
    putContacts: build.mutation<PutContactsAnswer, Partial<PutContacts>>({
      query: (body) => ({ url: 'api/v1/contacts', method: 'PUT', body }),
      invalidatesTags: ['Contact', 'People', 'Count'],
    }),
    companies: build.infiniteQuery<CompaniesAnswer, string, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: (last) => last.after ?? undefined },
      query: ({ queryArg, pageParam }) => ({
        url: 'api/app/companies',
        params: { limit: 100, ...(queryArg ? { search: queryArg } : {}), ...(pageParam ? { after: pageParam } : {}) },
      }),
      providesTags: ['People'],
    }),
    company: build.query<CompanyView, string>({
      query: (id) => `api/v1/companies/${encodeURIComponent(id)}`,
      providesTags: ['Contact'],
    }),
    companyLedger: build.infiniteQuery<Ledger, string, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: (last) => last.after ?? undefined },
      query: ({ queryArg, pageParam }) => ({
        url: `api/v1/companies/${encodeURIComponent(queryArg)}/ledger`,
        params: { limit: 20, ...(pageParam ? { after: pageParam } : {}) },
      }),
      providesTags: ['Contact', 'Ledger'],
    }),
    putCompanies: build.mutation<PutCompaniesAnswer, Partial<PutCompanies>>({
      query: (body) => ({ url: 'api/v1/companies', method: 'PUT', body }),
      invalidatesTags: ['Contact', 'People', 'Count'],
    }),
    dealBands: build.query<DealBands, string>({ query: (key) => `api/app/deals/bands/${key}`, providesTags: ['Count'] }),
    putDeals: build.mutation<PutDealsAnswer, Partial<PutDeals>>({
      query: (body) => ({ url: 'api/v1/deals', method: 'PUT', body }),
      invalidatesTags: ['Contact', 'People', 'Count'],
    }),
    trySignal: build.mutation<TryAnswer, TrySignal & { contact: string }>({
      query: ({ contact, ...body }) => ({ url: `api/v1/contacts/${contact}/try`, method: 'POST', body }),
    }),
    /** What taking back would do. It is asked anew each time, and changes nothing. */
    rehearseTakeBack: build.mutation<TakeBackAnswer, Taken>({
      query: (what) => ({ ...takeBackOf(what), params: { rehearse: 'true' } }),
    }),
    takeBack: build.mutation<TakeBackAnswer, Taken>({
      query: takeBackOf,
      invalidatesTags: ['Contact', 'People', 'Count', 'Audience', 'Ledger'],
    }),
    trace: build.query<TraceView, TraceSubject>({
      query: ({ whose, of, key }) => ({
        url: `api/app/${'contact' in whose ? `contacts/${whose.contact}` : `companies/${whose.company}`}/trace`,
        params: { of, key },
      }),
      providesTags: ['Contact'],
    }),
    audiences: build.query<{ audiences: AudienceView[] }, void>({ query: () => 'api/v1/audiences', providesTags: ['Audience'] }),
    audience: build.query<AudienceView, string>({ query: (key) => `api/v1/audiences/${key}`, providesTags: ['Audience'] }),
    members: build.infiniteQuery<PeopleAnswer, string, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: (last) => last.after ?? undefined },
      query: ({ queryArg, pageParam }) => ({
        url: `api/v1/audiences/${queryArg}/members`,
        params: { limit: 100, ...(pageParam ? { after: pageParam } : {}) },
      }),
      providesTags: ['Audience'],
    }),
    movements: build.infiniteQuery<Movements, string, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: (last) => last.after ?? undefined },
      query: ({ queryArg, pageParam }) => ({
        url: `api/v1/audiences/${queryArg}/movements`,
        params: { limit: 100, ...(pageParam ? { after: pageParam } : {}) },
      }),
      providesTags: ['Audience'],
    }),
    pins: build.query<PinsAnswer, string>({ query: (key) => `api/app/audiences/${key}/pins`, providesTags: ['Audience'] }),
    putPin: build.mutation<PinsAnswer, { audience: string; pin: PutPin }>({
      query: ({ audience, pin }) => ({ url: `api/app/audiences/${audience}/pins`, method: 'PUT', body: pin }),
      invalidatesTags: ['Audience', 'Contact', 'Count', 'People', 'Ledger'],
    }),
    clearPin: build.mutation<void, { audience: string; subject: string }>({
      query: ({ audience, subject }) => ({ url: `api/app/audiences/${audience}/pins/${subject}`, method: 'DELETE' }),
      invalidatesTags: ['Audience', 'Contact', 'Count', 'People', 'Ledger'],
    }),
    ledger: build.infiniteQuery<Ledger, string, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: (last) => last.after ?? undefined },
      query: ({ queryArg, pageParam }) => ({
        url: 'api/app/ledger',
        params: { limit: 100, ...(queryArg ? { kind: queryArg } : {}), ...(pageParam ? { after: pageParam } : {}) },
      }),
      providesTags: ['Ledger'],
    }),
    tasks: build.infiniteQuery<TasksAnswer, TasksAsked, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: (last) => last.after ?? undefined },
      query: ({ queryArg, pageParam }) => ({ url: 'api/v1/tasks', params: { ...queryArg, ...(pageParam ? { after: pageParam } : {}) } }),
      providesTags: ['Task'],
    }),
    makeTask: build.mutation<TaskView, NewTask>({
      query: (body) => ({ url: 'api/v1/tasks', method: 'POST', body }),
      invalidatesTags: ['Task', 'Contact', 'Ledger'],
    }),
    changeTask: build.mutation<TaskView, { id: number; change: ChangeTask }>({
      query: ({ id, change }) => ({ url: `api/v1/tasks/${id}`, method: 'PUT', body: change }),
      invalidatesTags: ['Task', 'Contact'],
    }),
    notices: build.query<NoticesAnswer, void>({ query: () => 'api/app/notices', providesTags: ['Task'] }),
    /** Seen: one notice, or with it all that came before it. */
    seeNotice: build.mutation<void, { id: number; earlier?: boolean }>({
      query: ({ id, earlier }) => ({ url: `api/app/notices/${id}/seen`, method: 'PUT', params: earlier ? { earlier: 'true' } : {} }),
      invalidatesTags: ['Task'],
    }),
    imports: build.query<ImportView[], void>({ query: () => 'api/app/imports', providesTags: ['Import'] }),
    cancelImport: build.mutation<void, number>({
      query: (id) => ({ url: `api/app/imports/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Import'],
    }),
    runImport: build.mutation<ImportView, { file: File; options: unknown }>({
      query: ({ file, options }) => ({
        url: 'api/app/imports',
        method: 'POST',
        params: { options: JSON.stringify(options) },
        body: file,
        headers: { 'content-type': 'text/csv' },
      }),
      invalidatesTags: ['Import', 'People', 'Count', 'Today'],
    }),
    rehearse: build.mutation<RuleRehearsal, { key?: string; rule: unknown }>({
      query: (body) => ({ url: 'api/app/rules/rehearse', method: 'POST', body }),
    }),
    recipients: build.query<RecipientsView, { message: string; search?: string; again: boolean }>({
      query: ({ message, search, again }) => ({
        url: `api/app/messages/${message}/recipients`,
        params: { ...(search ? { search } : {}), ...(again ? { again } : {}) },
      }),
      providesTags: ['Send', 'Audience', 'Catalogue'],
    }),
    circle: build.query<{ circle: CircleView | null }, string>({
      query: (key) => `api/app/rules/${key}/circle`,
      providesTags: ['Today', 'Catalogue'],
    }),
    letOn: build.mutation<void, string>({
      query: (key) => ({ url: `api/app/rules/${key}/let-on`, method: 'POST' }),
      invalidatesTags: ['Today', 'Ledger'],
    }),
    send: build.mutation<{ id: number; recipients: number }, { key: string; expected: number; again: boolean }>({
      query: ({ key, ...body }) => ({ url: `api/app/messages/${key}/send`, method: 'POST', body }),
      invalidatesTags: ['Send', 'Post', 'Today'],
    }),
    sends: build.query<SendView[], void>({ query: () => 'api/app/sends', providesTags: ['Send'] }),
    posts: build.query<PostView[], string>({
      query: (search) => ({ url: 'api/app/post-room', params: search ? { search } : {} }),
      providesTags: ['Post'],
    }),
    act: build.mutation<void, { id: number; do: 'open' | 'reply' | 'bounce' }>({
      query: ({ id, do: what }) => ({ url: `api/app/post-room/${id}/act`, method: 'POST', body: { do: what } }),
      invalidatesTags: ['Post'],
    }),
    keys: build.query<KeyView[], void>({ query: () => 'api/app/keys', providesTags: ['Key'] }),
    createKey: build.mutation<{ id: number; key: string }, { name: string; scopes: string[] }>({
      query: (body) => ({ url: 'api/app/keys', method: 'POST', body }),
      invalidatesTags: ['Key'],
    }),
    revokeKey: build.mutation<void, number>({ query: (id) => ({ url: `api/app/keys/${id}`, method: 'DELETE' }), invalidatesTags: ['Key'] }),
    persons: build.query<PersonView[], void>({ query: () => 'api/app/people', providesTags: ['Person'] }),
    personNames: build.query<PersonName[], void>({ query: () => 'api/app/people/names', providesTags: ['Person'] }),
    addPerson: build.mutation<PersonView, { email: string; name: string; role: string; password: string }>({
      query: (body) => ({ url: 'api/app/people', method: 'POST', body }),
      invalidatesTags: ['Person'],
    }),
    publicForm: build.query<PublicForm, string>({ query: (key) => `api/public/forms/${key}` }),
    answerForm: build.mutation<{ thanks: string }, { key: string; submission: string; answers: Record<string, unknown>; website?: string }>(
      {
        query: ({ key, ...body }) => ({ url: `api/public/forms/${key}/answers`, method: 'POST', body }),
      },
    ),
  }),
});
