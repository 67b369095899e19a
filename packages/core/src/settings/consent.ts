import { z } from 'zod';

export const consentChannelSchema = z.enum(['email', 'text', 'chat']);
export type ConsentChannel = z.infer<typeof consentChannelSchema>;
export const consentStateSchema = z.enum(['given', 'withdrawn', 'unknown', 'undeliverable']);
export type ConsentState = z.infer<typeof consentStateSchema>;
