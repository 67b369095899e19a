import { ANY, one, type Calls } from './calls';

export const audienceCalls = ({ read, pages, change }: Calls) => ({
  count: read('count', ['Count']),
  people: pages('people', ['People']),
  columnSummary: read('columnSummary', ['People']),
  values: read('values', []),
  audiences: read('audiences', one('Audience', ANY)),
  audience: read('audience', ({ key }) => one('Audience', key)),
  members: pages('members', ({ key }) => [...one('Audience', key), 'People']),
  movements: pages('movements', ({ key }) => one('Audience', key)),
  pins: read('pins', ({ key }) => one('Audience', key)),
  putPin: change('putPin', ['Audience', 'Contact', 'Count', 'People', 'Ledger']),
  clearPin: change('clearPin', ['Audience', 'Contact', 'Count', 'People', 'Ledger']),
});
