import { type Answer, type importOptionsSchema } from '@eager-sieve/contracts';
import { nanoid } from '@reduxjs/toolkit';
import { type z } from 'zod';
import { type Calls } from './calls';
import { requestOf } from './request';

/** A file of contacts, and how to read it. */
export interface ImportedFile {
  readonly file: File;
  readonly options: z.input<typeof importOptionsSchema>;
}

/** What a stand-in sends. */
export interface SentSignal {
  readonly source: string;
  readonly type: string;
  readonly subject: string;
  readonly data: unknown;
}

const TYPES = { csv: 'text/csv', ndjson: 'application/x-ndjson', vcard: 'text/vcard' } as const;
const typeOf = ({ format = 'csv' }: ImportedFile['options']): string => TYPES[format];

export const intakeCalls = ({ build, read, pages, change }: Calls) => ({
  imports: read('imports', ['Import']),
  cancelImport: change('cancelImport', ['Import']),
  runImport: build.mutation<Answer<'runImport'>, ImportedFile>({
    query: ({ file, options }) => ({
      ...requestOf('runImport', { options: JSON.stringify(options) }),
      body: file,
      headers: { 'content-type': typeOf(options) },
    }),
    invalidatesTags: ['Import', 'People', 'Count', 'Today'],
  }),
  rehearseImport: build.mutation<Answer<'rehearseImport'>, ImportedFile>({
    query: ({ file, options }) => ({
      ...requestOf('rehearseImport', { options: JSON.stringify(options) }),
      body: file,
      headers: { 'content-type': typeOf(options) },
    }),
  }),
  goOnWithImport: build.mutation<Answer<'goOnWithImport'>, { readonly id: number; readonly from: number; readonly file: File }>({
    query: ({ id, from, file }) => ({
      ...requestOf('goOnWithImport', { id, from }),
      body: file.slice(from),
      headers: { 'content-type': 'text/csv' },
    }),
    invalidatesTags: ['Import', 'People', 'Count', 'Today'],
  }),
  formResults: read('formResults', ['Stream']),
  formAnswers: pages('formAnswers', ['Stream'], 50),
  tryForm: change('tryForm', []),
  rehearseAnswerMap: change('rehearseAnswerMap', []),
  mapAgain: change('mapAgain', ['People', 'Count', 'Today', 'Contact', 'Audience', 'Ledger']),
  play: read('play', ['Status']),
  startPlay: change('startPlay', ['Status']),
  stopPlay: change('stopPlay', ['Status']),
  sendSignal: build.mutation<Answer<'takeSignals'>, SentSignal>({
    query: (signal) => requestOf('takeSignals', { wait: 'true', body: { specversion: '1.0', id: nanoid(), ...signal } }),
    invalidatesTags: ['Stream', 'Today', 'People', 'Contact', 'Count'],
  }),
  files: read('files', ['Status']),
  keepFile: build.mutation<Answer<'keepFile'>, { readonly file: File }>({
    query: ({ file }) => ({
      ...requestOf('keepFile', { name: file.name }),
      body: file,
      headers: { 'content-type': 'application/octet-stream' },
    }),
    invalidatesTags: ['Status'],
  }),
  removeFile: change('removeFile', ['Status']),
  site: read('site', ['Status']),
  putSite: change('putSite', ['Status']),
  hooks: read('hooks', ['Status']),
  hook: read('hook', ['Status', 'Stream']),
  makeHook: change('makeHook', ['Status']),
  changeHook: change('changeHook', ['Status']),
  renewHookSecret: change('renewHookSecret', []),
  removeHook: change('removeHook', ['Status']),
  rehearseHook: change('rehearseHook', []),
  watches: read('watches', ['Import']),
  watch: read('watch', ['Import']),
  watchedPlaces: read('watchedPlaces', ['Import']),
  lookAtPlace: change('lookAtPlace', []),
  rehearseWatch: change('rehearseWatch', []),
  makeWatch: change('makeWatch', ['Import']),
  changeWatch: change('changeWatch', ['Import']),
  removeWatch: change('removeWatch', ['Import']),
  readWatch: change('readWatch', ['Import']),
  answerGone: change('answerGone', ['Import', 'People', 'Today']),
  setAside: read('setAside', ['Import', 'Today']),
  tryAllAgain: change('tryAllAgain', ['Import', 'Today']),
  tryAgain: change('tryAgain', ['Import', 'Today']),
  dropAside: change('dropAside', ['Import', 'Today']),
});
