import { type ContactView, type PersonRow } from '@eager-sieve/contracts';

/** A row of a table of contacts. */
export const personRow = (n: number, more: Partial<PersonRow> = {}): PersonRow => ({
  id: `id-${n}`,
  name: `Person ${n}`,
  email: `p${n}@test.example`,
  tags: [],
  scores: [],
  lastFromThem: null,
  added: '2026-05-01T08:00:00Z',
  ...more,
});

/** A contact of whom nothing but the name and address is known. */
export const contactView = (more: Partial<ContactView> = {}): ContactView => ({
  id: 'id-1',
  email: 'anna@test.example',
  outsideId: null,
  name: 'Anna',
  added: '2026-05-01T08:00:00Z',
  fields: [],
  tags: [],
  consent: [],
  scores: [],
  stage: null,
  owner: null,
  company: null,
  deals: [],
  tasks: [],
  audiences: [],
  merges: [],
  formerAddresses: [],
  ...more,
});
