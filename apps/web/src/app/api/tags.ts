import { type Calls } from './calls';

export const tagCalls = ({ read, change }: Calls) => ({
  rehearseTagMerge: change('rehearseTagMerge', []),
  mergeTag: change('mergeTag', ['Status', 'Ledger']),
  tagMerges: read('tagMerges', ['Catalogue', 'Ledger']),
  takeBackTagMerge: change('takeBackTagMerge', ['Status', 'Ledger']),
  tagFigures: read('tagFigures', ['Count', 'Catalogue']),
});
