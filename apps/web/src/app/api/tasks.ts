import { type About, type Answer } from '@eager-sieve/contracts';
import { type Calls } from './calls';
import { requestOf } from './request';

export const taskCalls = ({ build, read, pages, change }: Calls) => ({
  tasks: pages('tasks', ['Task'], 50),
  makeTask: change('makeTask', ['Task', 'Contact', 'Ledger']),
  changeTask: change('changeTask', ['Task', 'Contact']),
  worklists: read('worklists', ['Worklist']),
  worklist: pages('worklist', ['Worklist', 'People'], 200),
  entry: read('entry', ['Worklist', 'Contact']),
  makeWorklist: change('makeWorklist', ['Worklist']),
  removeWorklist: change('removeWorklist', ['Worklist']),
  nextEntry: change('nextEntry', ['Worklist']),
  markEntry: change('markEntry', ['Worklist']),
  notes: read('notes', ['Note']),
  addNote: change('addNote', ['Note']),
  changeNote: change('changeNote', ['Note']),
  removeNote: change('removeNote', ['Note']),
  attachments: read('attachments', ['Note']),
  keepAttachment: build.mutation<Answer<'keepAttachment'>, About & { readonly file: File }>({
    query: ({ file, ...about }) => ({
      ...requestOf('keepAttachment', { ...about, name: file.name }),
      body: file,
      headers: { 'content-type': 'application/octet-stream' },
    }),
    invalidatesTags: ['Note'],
  }),
  removeAttachment: change('removeAttachment', ['Note']),
  notices: read('notices', ['Task']),
  seeNotice: change('seeNotice', ['Task']),
});
