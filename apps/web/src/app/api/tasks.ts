import { type Calls } from './calls';

export const taskCalls = ({ read, pages, change }: Calls) => ({
  tasks: pages('tasks', ['Task'], 50),
  makeTask: change('makeTask', ['Task', 'Contact', 'Ledger']),
  changeTask: change('changeTask', ['Task', 'Contact']),
  notices: read('notices', ['Task']),
  seeNotice: change('seeNotice', ['Task']),
});
