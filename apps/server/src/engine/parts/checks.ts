/** All existing subjects: without merged and erased ones. */
export const STANDING = 'select id from contact where merged_into is null union all select id from company';

/** The last effect on each definition of each subject. */
export const lastOf = (kind: string): string =>
  `select distinct on (l.contact_id, l.definition_id) l.contact_id, l.definition_id, l.verb, l.after from ledger l join (${STANDING}) s on s.id = l.contact_id where l.kind = '${kind}' order by l.contact_id, l.definition_id, l.id desc`;
/**
 * The last effect on each definition, or on each channel, of everyone. To be joined: asked for each row by itself, the effects of everybody on a definition were read
 * again for each who has it, which takes minutes from some thousands of them on.
 */
export const latestOf = (kind: string, by: 'definition_id' | 'channel' = 'definition_id'): string =>
  `select distinct on (l.contact_id, l.${by}) l.contact_id, l.${by}, l.verb, l.after from ledger l where l.kind = '${kind}' order by l.contact_id, l.${by}, l.id desc`;
/** The last effect on what there is one of for each contact. */
export const lastAlone = (kind: string): string =>
  `select l.contact_id, l.after from ledger l where l.kind = '${kind}' and not exists (select from ledger n where n.contact_id = l.contact_id and n.kind = l.kind and n.id > l.id)`;
