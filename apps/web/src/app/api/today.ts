import { type Calls } from './calls';

export const todayCalls = ({ read }: Calls) => ({
  today: read('today', ['Today']),
  stream: read('stream', ['Stream']),
  search: read('search', []),
});
