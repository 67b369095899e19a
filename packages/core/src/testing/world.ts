export * from './definitions.ts';
export * from './values.ts';
export * from './conditions.ts';
export * from './contacts.ts';
