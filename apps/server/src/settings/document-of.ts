import { DOCUMENT_SECTIONS, type DefinitionsDocument, type DocumentItem } from '@eager-sieve/core';
import { type NamedItem } from '../database/entities';

/** A part of the document with these items, each in the section of its kind. */
export function documentOf(items: readonly NamedItem[]): DefinitionsDocument {
  const document: Record<string, DocumentItem[]> = {};
  for (const { kind, item } of items) (document[DOCUMENT_SECTIONS[kind]] ??= []).push(item);
  return document as DefinitionsDocument;
}
