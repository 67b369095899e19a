import { type Calls } from './calls';

export const audienceCalls = ({ read, pages, change }: Calls) => ({
  count: read('count', ['Count']),
  people: pages('people', ['People']),
  explain: read('explain', ['Contact']),
  audiences: read('audiences', ['Audience']),
  audience: read('audience', ['Audience']),
  members: pages('members', ['Audience']),
  movements: pages('movements', ['Audience']),
  pins: read('pins', ['Audience']),
  putPin: change('putPin', ['Audience', 'Contact', 'Count', 'People', 'Ledger']),
  clearPin: change('clearPin', ['Audience', 'Contact', 'Count', 'People', 'Ledger']),
});
