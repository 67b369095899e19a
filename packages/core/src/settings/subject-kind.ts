import { z } from 'zod';

/** What conditions, scorecards and audiences can be about. */
export const subjectKindSchema = z.enum(['contact', 'company', 'deal']);
export type SubjectKind = z.infer<typeof subjectKindSchema>;
