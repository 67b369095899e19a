import { type Calls } from './calls';

export const todayCalls = ({ read, change }: Calls) => ({
  today: read('today', ['Today']),
  loadDemo: change('loadDemo', ['Today']),
  stream: read('stream', ['Stream']),
  search: read('search', []),
});
