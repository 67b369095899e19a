import { type Calls } from './calls';

export const campaignCalls = ({ read, change }: Calls) => ({
  recipients: read('recipients', ['Send', 'People', 'Audience', 'Catalogue']),
  send: change('send', ['Send', 'Post', 'Today']),
  sends: read('sends', ['Send']),
  posts: read('posts', ['Post']),
  staffMails: read('staffMails', ['Post']),
  sending: read('sending', ['Send']),
  putSending: change('putSending', ['Send', 'Post', 'Ledger']),
  actOnPost: change('actOnPost', ['Post']),
});
