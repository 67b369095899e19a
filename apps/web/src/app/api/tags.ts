import { type Calls } from './calls';

export const tagCalls = ({ read, change }: Calls) => ({
  rehearseTagReplacement: change('rehearseTagReplacement', []),
  replaceTag: change('replaceTag', ['Status', 'Ledger']),
  tagReplacements: read('tagReplacements', ['Catalogue', 'Ledger']),
  takeBackTagReplacement: change('takeBackTagReplacement', ['Status', 'Ledger']),
  tagFigures: read('tagFigures', ['Count', 'Catalogue']),
});
