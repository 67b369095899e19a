import { fold } from '@eager-sieve/core';

/** Text in a LIKE pattern that stands for itself. */
export const asItIs = (text: string): string => text.replace(/[\\%_]/g, '\\$&');

/** The LIKE pattern of everything that holds this text, folded as names and addresses are kept. */
export const holding = (text: string): string => `%${asItIs(fold(text))}%`;
