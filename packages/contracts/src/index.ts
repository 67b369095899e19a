export * from './access.ts';
export * from './problems.ts';
export * from './signals.ts';
export * from './contacts.ts';
export * from './audiences.ts';
export * from './definitions.ts';
export * from './application.ts';
export * from './openapi.ts';
