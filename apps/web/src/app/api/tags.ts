import { type Calls } from './calls';

export const tagCalls = ({ read }: Calls) => ({
  tagFigures: read('tagFigures', ['Count', 'Catalogue']),
});
