import { type Calls } from './calls';

export const todayCalls = ({ read, pages, change }: Calls) => ({
  today: read('today', ['Today']),
  loadDemo: change('loadDemo', ['Today']),
  stopDemo: change('stopDemo', ['Today']),
  stream: pages('stream', ['Stream'], 50),
  sources: read('sources', []),
  search: read('search', []),
});
