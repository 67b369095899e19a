import { type Calls } from './calls';

export const ruleCalls = ({ read, change }: Calls) => ({
  rehearse: change('rehearse', []),
  funnel: read('funnel', ['Count', 'Catalogue', 'People']),
  ruleFigures: read('ruleFigures', ['Ledger', 'Catalogue', 'Today']),
  circle: read('circle', ['Today', 'Catalogue']),
  sweeps: read('sweeps', ['Ledger', 'Catalogue']),
  sweep: change('sweep', ['Ledger', 'Status']),
  mapValues: read('mapValues', ['Stream', 'Catalogue']),
  rehearseMap: change('rehearseMap', []),
  rehearseRouting: change('rehearseRouting', []),
  rehearseBundle: change('rehearseBundle', []),
  bundleSweeps: read('bundleSweeps', ['Ledger', 'Catalogue']),
  sweepBundle: change('sweepBundle', ['Ledger', 'Status']),
  mapSweeps: read('mapSweeps', ['Ledger', 'Catalogue']),
  sweepMap: change('sweepMap', ['Ledger', 'Status']),
  cancelSweep: change('cancelSweep', ['Ledger', 'Status']),
  letOn: change('letOn', ['Today', 'Ledger']),
});
