import { type Calls } from './calls';

export const taskCalls = ({ read, pages, change }: Calls) => ({
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
  notices: read('notices', ['Task']),
  seeNotice: change('seeNotice', ['Task']),
});
