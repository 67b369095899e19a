import { type ImportOptions } from '@eager-sieve/contracts';
import { prepareCompanies } from '../companies/prepare-companies';
import { prepareContacts } from '../contacts/prepare-contacts';
import { type EditCause, type EditContext, type PreparedEdits } from '../engine/edits.service';
import { type ImportRow } from './import-rows';

/** Takes rows in as what they are: contacts or companies. */
export function prepareRows(
  context: EditContext,
  rows: readonly ImportRow[],
  options: ImportOptions,
  cause: EditCause,
): Promise<PreparedEdits> {
  const { onExisting } = options;
  if (options.of === 'company') {
    const companies = rows.map(({ write: { outsideId = '', name, fields } }) => ({
      value: { outsideId, ...(name === undefined ? {} : { name }), ...(fields ? { fields } : {}) },
    }));
    return prepareCompanies(context, { matchBy: 'outsideId', onExisting, companies }, cause);
  }
  const contacts = rows.map(({ write: { name: _name, ...contact } }) => ({ value: contact }));
  return prepareContacts(context, { matchBy: options.matchBy, onExisting, contacts }, cause, options.addTags);
}
