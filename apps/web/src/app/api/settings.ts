import { type WrittenDocument } from '@eager-sieve/core';
import { type Answer } from '@eager-sieve/contracts';
import { type Calls } from './calls';
import { requestOf } from './request';

export const settingsCalls = ({ build, read, change }: Calls) => ({
  catalogue: read('catalogue', ['Catalogue']),
  definitions: read('definitions', ['Catalogue']),
  /** Its body is a part of the document, typed section by section. */
  putDefinitions: build.mutation<Answer<'putDefinitions'>, { readonly body: WrittenDocument }>({
    query: ({ body }) => ({ ...requestOf('putDefinitions', { body: {} }), body }),
    invalidatesTags: ['Catalogue', 'Audience', 'Today', 'Status', 'Session'],
  }),
  versions: read('versions', ['Catalogue']),
  fieldFigures: read('fieldFigures', ['Catalogue', 'Count']),
  olderSignals: read('olderSignals', ['Catalogue', 'Count']),
  mergeChoice: change('mergeChoice', []),
  changeType: change('changeType', []),
  openApi: read('openApi', []),
  status: read('status', ['Status']),
  steerBuild: change('steerBuild', ['Status', 'Audience', 'Ledger']),
  keys: read('keys', ['Key']),
  createKey: change('createKey', ['Key']),
  revokeKey: change('revokeKey', ['Key']),
  renameKey: change('renameKey', ['Key']),
  restoreKey: change('restoreKey', ['Key']),
});
