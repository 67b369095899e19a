import { type Calls } from './calls';

export const ruleCalls = ({ read, change }: Calls) => ({
  rehearse: change('rehearse', []),
  circle: read('circle', ['Today', 'Catalogue']),
  letOn: change('letOn', ['Today', 'Ledger']),
});
