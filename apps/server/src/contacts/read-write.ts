import { bad, fold, good, isEmail, readTagValue, type Catalogue, type Checked, type Fault, type TagValueKind } from '@eager-sieve/core';
import { type ContactChange, type ContactWrite, type PutContacts } from '@eager-sieve/contracts';
import { type EditPayload } from '../engine/inbox';
import { type Subject } from './resolve';
import { readSentFields } from './sent-fields';
import { readSentLists } from './sent-lists';

export interface ReadWrite {
  readonly index: number;
  readonly subject: Subject;
  readonly edit: Omit<EditPayload, 'cause' | 'reason'>;
  readonly faults: readonly Fault[];
}

/** What a request refers to besides definitions: companies by outside id, and people with access by email. */
export interface Known {
  readonly companies: ReadonlyMap<string, number>;
  readonly owners: ReadonlySet<string>;
}

/** Checks what is to be written of a contact, and says everything that is wrong with it. */
export function readWrite(
  written: ContactWrite,
  index: number,
  matchBy: PutContacts['matchBy'],
  catalogue: Catalogue,
  known: Known,
  addTags: readonly string[],
): ReadWrite {
  const reading = new ContactReader(written, catalogue);
  const subject = reading.subject(matchBy);
  const tags = reading.tags(addTags);
  const edit = {
    fields: reading.fields(),
    addTags: tags.add,
    removeTags: tags.remove,
    consent: written.consent ?? {},
    ...reading.links(known),
  };
  return { index, subject, faults: reading.faults, edit };
}

/** Checks a change that is made to many contacts alike. */
export function readChange(change: ContactChange, catalogue: Catalogue, known: Known): Checked<Omit<EditPayload, 'cause' | 'reason'>> {
  const reading = new ContactReader(change, catalogue);
  const { add, remove } = reading.tags([]);
  const edit = {
    fields: reading.fields(),
    addTags: add,
    removeTags: remove,
    consent: change.consent ?? {},
    ...reading.links(known),
  };
  return reading.faults.length > 0 ? bad(...reading.faults) : good(edit);
}

class ContactReader {
  readonly faults: Fault[] = [];
  readonly #written: ContactWrite;
  readonly #catalogue: Catalogue;

  constructor(written: ContactWrite, catalogue: Catalogue) {
    this.#written = written;
    this.#catalogue = catalogue;
  }

  #fault(path: readonly (string | number)[], code: string, expected: string): void {
    this.faults.push({ path, code, expected });
  }

  subject(matchBy: PutContacts['matchBy']): Subject {
    const { outsideId, fields } = this.#written;
    const email = this.#written.email?.trim();
    if (email && !isEmail(email)) this.#fault(['email'], 'email.malformed', 'an email address like name@place.example');
    const withEmail = email ? { email } : {};
    if (matchBy === 'outsideId') {
      if (!outsideId) this.#fault(['outsideId'], 'outside-id.missing', 'the outside id to match by');
      return { by: 'outsideId', outsideId: outsideId ?? '', ...withEmail };
    }
    if (matchBy === 'phone') {
      const phone = fold(String(fields?.['phone'] ?? ''));
      if (!phone) this.#fault(['fields', 'phone'], 'phone.missing', 'the phone number to match by');
      return { by: 'phone', phone, ...withEmail };
    }
    if (matchBy === 'id') {
      const uid = this.#written.id?.toLowerCase();
      if (!uid) this.#fault(['id'], 'id.missing', 'the id to match by');
      return { by: 'id', uid: uid ?? '' };
    }
    if (!email) this.#fault(['email'], 'email.missing', 'the email address to match by');
    return { by: 'email', email: email ?? '', ...(outsideId ? { outsideId } : {}) };
  }

  fields(): Record<number, unknown> {
    const given = { ...this.#written.fields, ...(this.#written.part === undefined ? {} : { part: this.#written.part }) };
    const { fields, faults } = readSentFields(given, 'contact', this.#catalogue);
    this.faults.push(...faults);
    return Object.fromEntries(fields.map(({ id, value }) => [id, value]));
  }

  tags(alsoAdd: readonly string[]): { readonly add: { tag: number; value?: number }[]; readonly remove: number[] } {
    const add: { tag: number; value?: number }[] = [];
    const remove: number[] = [];
    for (const [key, given] of [...Object.entries(this.#written.tags ?? {}), ...alsoAdd.map((tag) => [tag, true] as const)]) {
      const tag = this.#catalogue.find('tag', key);
      if (!tag || tag.retired) {
        this.#fault(['tags', key], 'tag.unknown', 'a tag that exists');
        continue;
      }
      if (given === false || given === null) remove.push(tag.id);
      else if (given === true) add.push({ tag: tag.id });
      else {
        const value = this.#tagValue(tag.body.value, given, ['tags', key]);
        if (value !== undefined) add.push({ tag: tag.id, value });
      }
    }
    return { add, remove };
  }

  #tagValue(kept: TagValueKind | undefined, given: number | string, path: readonly string[]): number | undefined {
    if (kept === undefined) {
      this.#fault(path, 'tag.plain', 'true or false: this tag carries no value');
      return undefined;
    }
    const value = readTagValue(kept, given, path);
    if (value.ok) return value.value;
    this.faults.push(...value.faults);
    return undefined;
  }

  /** Company, stage, owner and fixed lists. */
  links({ companies, owners }: Known): Pick<EditPayload, 'company' | 'stage' | 'owner' | 'lists'> {
    const { company, stage, owner, lists } = this.#written;
    const links: { company?: number | null; stage?: number | null; owner?: string | null } = {};
    if (company !== undefined) {
      links.company = company === null ? null : (companies.get(company) ?? null);
      if (company !== null && !companies.has(company))
        this.#fault(['company'], 'company.unknown', 'the outside id of a company that exists');
    }
    if (stage !== undefined) {
      const found = stage === null ? undefined : this.#catalogue.find('stage', stage);
      const known = this.#catalogue.ladder().map((each) => each.key);
      if (stage !== null && !found) this.#fault(['stage'], 'stage.unknown', `one of ${known.join(', ') || '(there are none yet)'}`);
      links.stage = found?.id ?? null;
    }
    if (owner !== undefined) {
      const email = owner?.trim().toLowerCase() ?? null;
      if (email !== null && !owners.has(email)) this.#fault(['owner'], 'owner.unknown', 'the sign-in email of someone with access');
      links.owner = email;
    }
    const on = readSentLists(lists, 'contact', this.#catalogue);
    this.faults.push(...on.faults);
    return on.lists ? { ...links, lists: on.lists } : links;
  }
}
