import { z } from 'zod';

/**
 * What a person or a key may do. A route names all that it takes, by what it reveals: how many (`audiences:read`), who they are
 * (`contacts:names`), or what is known of them (`contacts:read`).
 */
export const capabilities = [
  'contacts:names',
  'contacts:read',
  'contacts:write',
  'signals:read',
  'signals:write',
  'audiences:read',
  'definitions:read',
  'definitions:write',
  'campaigns:read',
  'campaigns:send',
  'ledger:read',
  'people:read',
  'settings:read',
  'settings:write',
] as const;
export const capabilitySchema = z.enum(capabilities);
export type Capability = z.infer<typeof capabilitySchema>;

export const roleSchema = z.enum(['admin', 'editor', 'seller', 'viewer']);
export type Role = z.infer<typeof roleSchema>;

/** What each capability allows: as a refusal says it after “may not”, and the settings after “may”. */
export const capabilityWords: Readonly<Record<Capability, string>> = {
  'contacts:names': 'see who contacts are',
  'contacts:read': 'read what is known of contacts',
  'contacts:write': 'change contacts',
  'signals:read': 'look at signals',
  'signals:write': 'send signals',
  'audiences:read': 'count contacts, and look at audiences',
  'definitions:read': 'look at how things are set up',
  'definitions:write': 'change how things are set up',
  'campaigns:read': 'look at campaigns',
  'campaigns:send': 'send campaigns',
  'ledger:read': 'look at the ledger',
  'people:read': 'see who else works here',
  'settings:read': 'look at the settings',
  'settings:write': 'change the settings',
};

/** Whether a capability is among those that somebody has: whoever may read contacts may see their names. */
export const includesCapability = (has: readonly Capability[], capability: Capability): boolean =>
  has.includes(capability) || (capability === 'contacts:names' && has.includes('contacts:read'));

const reading = capabilities.filter((capability) => capability.endsWith(':read') && capability !== 'settings:read');

/**
 * Roles are sets of capabilities. A seller has theirs only over contacts that they look after: of the routes that tell of contacts
 * they may call those alone that are narrowed to these.
 */
export const roleCapabilities: Record<Role, readonly Capability[]> = {
  admin: capabilities,
  editor: capabilities.filter((capability) => capability !== 'settings:write'),
  viewer: reading,
  seller: ['definitions:read', 'audiences:read', 'contacts:names', 'contacts:read', 'contacts:write'],
};

/** The scopes that a key can be given. */
export const keyScopes = [
  'signals:write',
  'contacts:names',
  'contacts:read',
  'contacts:write',
  'audiences:read',
  'definitions:read',
  'definitions:write',
] as const;
export const keyScopeSchema = z.enum(keyScopes);

const password = z.string().min(1).max(200);
const code = z.string().trim().min(6).max(40);

export const signInSchema = z.strictObject({
  email: z.string().trim().min(3).max(254),
  password,
  code: code.optional().describe('of the second factor, or a recovery code; asked for by the answer `sign-in.code`'),
});
export type SignIn = z.infer<typeof signInSchema>;

export const sessionViewSchema = z.object({
  person: z.object({
    id: z.int(),
    email: z.string(),
    name: z.string(),
    role: roleSchema,
    secondFactor: z.boolean(),
    dailyMail: z.boolean(),
  }),
  own: z
    .array(z.string())
    .nullable()
    .describe(
      'the sign-in addresses of those whose contacts they see: their own, or those of their team; of all contacts where it is null',
    ),
  capabilities: z.array(capabilitySchema),
  browser: z.string().describe('the one that asks, as the list of browsers names it'),
  csrf: z.string().describe('sent back as the header X-CSRF-Token with every change'),
  workspace: z.object({ name: z.string(), timeZone: z.string() }),
});
export type SessionView = z.infer<typeof sessionViewSchema>;

/** The fewest characters of a password. */
export const PASSWORD_LENGTH = 12;

/** One browser in which one is signed in. */
export const browserSchema = z.object({
  id: z.string(),
  agent: z.string().describe('how the browser names itself'),
  address: z.string(),
  since: z.string(),
  seen: z.string(),
  here: z.boolean().describe('whether it is the one that asks'),
});
export type Browser = z.infer<typeof browserSchema>;

export const changePasswordSchema = z.strictObject({ password, next: z.string().max(200) });
export const changeAccountSchema = z.strictObject({
  dailyMail: z.boolean().describe('whether one gets a mail each morning that has something for one'),
});
export const confirmByPasswordSchema = z.strictObject({ password });
export const newSecondFactorSchema = z.object({
  secret: z.string(),
  uri: z.string().describe('for a picture that a program of codes reads'),
});
export const confirmSecondFactorSchema = z.strictObject({ code });
export const recoveryCodesSchema = z.object({ codes: z.array(z.string()).describe('each opens once in place of a code; shown this once') });

const team = z.string().trim().max(80);

export const invitePersonSchema = z.strictObject({
  email: z.email().max(254),
  name: z.string().trim().min(1).max(120),
  role: roleSchema,
  team: team.optional(),
});
export const changePersonSchema = z.strictObject({
  name: z.string().trim().min(1).max(120).optional(),
  role: roleSchema.optional(),
  team: team.optional().describe('empty: none'),
  seesTeam: z.boolean().optional().describe('whether a seller sees the contacts of everyone of their team'),
  disabled: z.boolean().optional(),
});
export type ChangePerson = z.infer<typeof changePersonSchema>;
export const invitationSchema = z.object({
  email: z.string(),
  name: z.string(),
  isFirst: z.boolean().describe('whether nobody is there yet: then who it is is said with the password'),
});
export type InvitationView = z.infer<typeof invitationSchema>;
export const acceptInvitationSchema = z.strictObject({
  password: z.string().max(200),
  self: z
    .strictObject({ email: z.email().max(254), name: z.string().trim().min(1).max(120) })
    .optional()
    .describe('who the first person is'),
});
export const newKeySchema = z.strictObject({ name: z.string().trim().min(1).max(80), scopes: z.array(keyScopeSchema).min(1) });
export const renameKeySchema = newKeySchema.pick({ name: true });
export const newKeyAnswerSchema = z.object({ id: z.int(), key: z.string().describe('shown this once: it is kept as a hash') });
export const keyViewSchema = z.object({
  id: z.int(),
  name: z.string(),
  prefix: z.string(),
  scopes: z.array(z.string()),
  createdAt: z.string(),
  lastUsedAt: z.string().nullable(),
  revokedAt: z.string().nullable(),
});
export type KeyView = z.infer<typeof keyViewSchema>;

/** By whom somebody is named, where people look after things. */
export const personNameSchema = z.object({ email: z.string(), name: z.string(), team: z.string().nullable() });
export type PersonName = z.infer<typeof personNameSchema>;
export const personViewSchema = personNameSchema.extend({
  id: z.int(),
  role: roleSchema,
  seesTeam: z.boolean(),
  state: z.enum(['invited', 'active', 'disabled']),
  secondFactor: z.boolean(),
  seen: z.string().nullable().describe('when they were last here, as far as a browser of theirs is still signed in'),
});
export type PersonView = z.infer<typeof personViewSchema>;
export const invitedSchema = z.object({
  person: personViewSchema,
  token: z.string().describe('the end of the link by which they set their password; shown this once'),
});
export type Invited = z.infer<typeof invitedSchema>;
