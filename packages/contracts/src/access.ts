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

/** Roles are sets of capabilities. A seller is to see only what they own; as long as no call narrows to that, they see the words of the workspace alone. */
export const roleCapabilities: Record<Role, readonly Capability[]> = {
  admin: capabilities,
  editor: capabilities.filter((capability) => capability !== 'settings:write'),
  viewer: reading,
  seller: ['definitions:read'],
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

export const signInSchema = z.strictObject({ email: z.string().trim().min(3).max(254), password: z.string().min(1).max(200) });
export type SignIn = z.infer<typeof signInSchema>;

export const sessionViewSchema = z.object({
  person: z.object({ id: z.int(), email: z.string(), name: z.string(), role: roleSchema }),
  capabilities: z.array(capabilitySchema),
  csrf: z.string().describe('sent back as the header X-CSRF-Token with every change'),
  workspace: z.object({ name: z.string(), timeZone: z.string() }),
});
export type SessionView = z.infer<typeof sessionViewSchema>;

export const newPersonSchema = z.strictObject({
  email: z.email().max(254),
  name: z.string().trim().min(1).max(120),
  role: roleSchema,
  password: z.string().min(12, 'at least 12 characters').max(200),
});
export const newKeySchema = z.strictObject({ name: z.string().trim().min(1).max(80), scopes: z.array(keyScopeSchema).min(1) });
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
export const personNameSchema = z.object({ email: z.string(), name: z.string() });
export type PersonName = z.infer<typeof personNameSchema>;
export const personViewSchema = personNameSchema.extend({ id: z.int(), role: roleSchema });
export type PersonView = z.infer<typeof personViewSchema>;
