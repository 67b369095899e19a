/** The public id and name of a subject, a contact or a company. Joined as `c` and `k`. */
export const SUBJECT_COLUMNS = `c.uid as contact_uid, k.uid as company_uid,
  coalesce(nullif(c.name, ''), c.email, nullif(k.name, ''), k.outside_id, 'someone unnamed') as subject_name`;

/** @param id the column that holds the id of a contact or a company */
export const subjectJoins = (id: string): string => `left join contact c on c.id = ${id} left join company k on k.id = ${id}`;

export interface SubjectRow {
  readonly contact_uid: string | null;
  readonly company_uid: string | null;
  readonly subject_name: string;
}

/** As answers name whom something is about. */
export const subjectView = (row: SubjectRow) => ({
  contact: row.contact_uid,
  contactName: row.contact_uid === null ? null : row.subject_name,
  company: row.company_uid,
  companyName: row.company_uid === null ? null : row.subject_name,
});
