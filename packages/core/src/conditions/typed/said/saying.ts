import { type Catalogue } from '../../../settings/catalogue.ts';
import { type Cursor } from '../cursor.ts';

/** What a sentence is read from: where it stands, and what its names mean. */
export interface Saying {
  readonly cursor: Cursor;
  readonly catalogue: Catalogue;
}
