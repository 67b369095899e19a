import { createHash } from 'node:crypto';
import { splitName, type Catalogue, type DetailField, type TagReason } from '@eager-sieve/core';
import { type CompanyWrite, type ContactWrite, type DealWrite, type ImportOptions } from '@eager-sieve/contracts';
import { prepareCompanies } from '../companies/prepare-companies';
import { prepareDeals } from '../companies/prepare-deals';
import { prepareContacts } from '../contacts/prepare-contacts';
import { rejected, type EditCause, type EditContext, type EditResult, type PreparedEdits } from '../engine/edits.service';
import { readSubject } from '../contacts/resolve';
import { type Cells } from './import-cells';
import { IMPORT_SOURCE, prepareSignals, readEvent, type ReadSignal } from './signals.service';

/** What the rows of a file can be. */
interface Kind<Value> {
  /** what its columns can go to, beside fields, tags and details */
  readonly targets: readonly string[];
  /** the target without which nobody could tell whom a row is about, and what it is called */
  readonly needed: (options: ImportOptions) => readonly [target: string, name: string];
  readonly read: (cells: Cells) => Value;
  /** by what a row is known */
  readonly keyOf: (value: Value, options: ImportOptions) => string;
  /** takes rows in */
  readonly prepare: (
    context: EditContext,
    values: readonly Value[],
    options: ImportOptions,
    cause: EditCause,
    /** why contacts have the tags that they get; the import itself where it is left out */
    reason?: TagReason,
  ) => Promise<PreparedEdits>;
}

/** A signal as a file says it, before it is known whether it can be one. */
export interface SignalRow {
  readonly id: string;
  readonly type: string;
  readonly time?: string;
  readonly subject: string;
  readonly historic: boolean;
  readonly source: string;
  /** whether it brought an id of its own */
  readonly hasOwnId: boolean;
  /** what its row says of whom it is about */
  readonly contact?: ContactWrite;
  readonly data: Readonly<Record<string, unknown>>;
}

/** A row without an id of its own is known by what it says: the same file again brings nothing twice. */
export const idOf = ({
  type,
  subject,
  time,
  data,
}: Pick<SignalRow, 'type' | 'subject' | 'data'> & { readonly time?: string | undefined }): string =>
  createHash('sha256')
    .update(JSON.stringify([type, subject, time ?? null, data]))
    .digest('hex');

const OUTSIDE_ID = ['outsideId', 'the outside id'] as const;

/** What a row says of a contact beside who it is. */
function factsIn(cells: Cells): Pick<ContactWrite, 'fields' | 'tags' | 'consent'> {
  const fields = cells.fields('contact');
  const { given, family } = splitName(cells.text('name'));
  if (given !== undefined) fields['given-name'] ??= given;
  if (family !== undefined) fields['family-name'] ??= family;
  return { fields, tags: cells.tags(), consent: cells.consent() } as Pick<ContactWrite, 'fields' | 'tags' | 'consent'>;
}

const contact: Kind<ContactWrite> = {
  targets: ['email', 'outsideId', 'name', 'company', 'part', 'stage', 'owner', 'consent:email', 'consent:text', 'consent:chat'],
  needed: ({ matchBy }) =>
    matchBy === 'outsideId' ? OUTSIDE_ID : matchBy === 'phone' ? ['field:phone', 'the phone number'] : ['email', 'the email address'],
  read(cells) {
    const { list, owner, consent: ofAll } = cells.options;
    const plain = cells.plain('email', 'outsideId', 'company', 'part', 'stage', 'owner');
    const facts = factsIn(cells);
    return {
      ...plain,
      email: plain.email ?? '',
      ...facts,
      consent: { ...(ofAll ? { email: ofAll } : {}), ...facts.consent },
      ...(owner === undefined || plain.owner !== undefined ? {} : { owner }),
      ...(list === undefined ? {} : { lists: { [list]: true } }),
    } as ContactWrite;
  },
  keyOf({ email, outsideId, fields }, { matchBy }) {
    if (matchBy === 'outsideId') return outsideId ?? '';
    return matchBy === 'phone' ? String(fields?.['phone'] ?? '') : (email ?? '').toLowerCase();
  },
  prepare: (context, values, { matchBy, onExisting, addTags }, cause, reason) =>
    prepareContacts(context, { matchBy, onExisting, contacts: values.map((value) => ({ value })) }, cause, addTags, reason),
};

const company: Kind<CompanyWrite> = {
  targets: ['outsideId', 'name'],
  needed: () => OUTSIDE_ID,
  read(cells) {
    const { outsideId = '', name } = cells.plain('outsideId', 'name');
    if (outsideId === '') cells.fault('outsideId', 'outside-id.missing', 'the outside id of the company');
    const { list } = cells.options;
    return {
      outsideId,
      ...(name === undefined ? {} : { name }),
      fields: cells.fields('company'),
      ...(list === undefined ? {} : { lists: { [list]: true } }),
    };
  },
  keyOf: ({ outsideId }) => outsideId,
  prepare: (context, values, { onExisting }, cause) =>
    prepareCompanies(context, { matchBy: 'outsideId', onExisting, companies: values.map((value) => ({ value })) }, cause),
};

const deal: Kind<DealWrite> = {
  targets: ['outsideId', 'name', 'contact', 'company', 'pipeline', 'stage', 'amount', 'currency'],
  needed: () => OUTSIDE_ID,
  read(cells) {
    const { outsideId = '', ...plain } = cells.plain('outsideId', 'name', 'contact', 'company', 'pipeline', 'stage', 'amount', 'currency');
    if (outsideId === '') cells.fault('outsideId', 'outside-id.missing', 'the outside id of the deal');
    return { outsideId, ...plain, fields: cells.fields('deal') };
  },
  keyOf: ({ outsideId }) => outsideId,
  prepare: (context, values, { onExisting }, cause) =>
    prepareDeals(context, { matchBy: 'outsideId', onExisting, deals: values.map((value) => ({ value })) }, cause),
};

const signal: Kind<SignalRow> = {
  targets: ['email', 'outsideId', 'id', 'time', 'name', 'consent:email', 'consent:text', 'consent:chat'],
  needed: ({ matchBy }) => (matchBy === 'outsideId' ? OUTSIDE_ID : ['email', 'the email address']),
  read(cells) {
    const { options, catalogue } = cells;
    const { email = '', outsideId = '' } = cells.plain('email', 'outsideId');
    const type = options.signalType ?? '';
    const subject = options.matchBy === 'outsideId' ? (outsideId === '' ? '' : `id:${outsideId}`) : email;
    if (!readSubject(subject)) {
      const [target, name] = signal.needed(options);
      cells.fault(target, 'subject.malformed', `${name} of a contact`);
    }
    const time = cells.time('time');
    const data = cells.details(catalogue.find('signalType', type)?.body.fields ?? []);
    const ownId = cells.text('id');
    const facts = factsIn(cells);
    const says = Object.values(facts).some((part) => Object.keys(part ?? {}).length > 0);
    return {
      id: ownId || idOf({ type, subject, time, data }),
      hasOwnId: ownId !== '',
      source: IMPORT_SOURCE,
      ...{ type, subject, historic: !options.fires, data },
      ...(time === undefined ? {} : { time }),
      ...(says ? { contact: { email, ...(outsideId === '' ? {} : { outsideId }), ...facts } } : {}),
    };
  },
  keyOf: ({ subject }) => subject.replace(/^id:/, '').toLowerCase(),
  async prepare(context, values, options, cause) {
    const { sql, catalogue, now } = context;
    const read: ReadSignal[] = [];
    const results: EditResult[] = [];
    const told: { readonly index: number; readonly value: ContactWrite }[] = [];
    values.forEach(({ contact: about, hasOwnId: _hasOwnId, ...value }, index) => {
      const event = { specversion: '1.0', ...value };
      const checked = readEvent(event, catalogue, now);
      if (!checked.ok) return results.push(rejected(index, checked.faults));
      read.push({ index, event, ...checked.value });
      if (about) told.push({ index, value: about });
    });
    // What is known of somebody comes before what they did: rules and scores see it.
    const matchBy = options.matchBy === 'outsideId' ? 'outsideId' : 'email';
    const facts = await prepareContacts(context, { matchBy, onExisting: 'update', contacts: told }, cause);
    const unfit = new Map(facts.results.flatMap(({ index, faults }) => (faults ? [[told[index]?.index, faults] as const] : [])));
    const { accepted, contacts, entries } = await prepareSignals(
      sql,
      catalogue,
      read.filter(({ index }) => !unfit.has(index)),
      cause,
      now,
    );
    for (const { index } of read) {
      const wrong = unfit.get(index);
      if (wrong) {
        results.push(rejected(index, wrong));
        continue;
      }
      const subject = contacts.get(index);
      const status = accepted.has(index) ? 'created' : 'skipped';
      results.push({ index, uid: null, status, ...(subject === undefined ? {} : { subject }) });
    }
    return { entries: [...facts.entries, ...entries], results: results.sort((a, b) => a.index - b.index) };
  },
};

type Values = { contact: ContactWrite; company: CompanyWrite; deal: DealWrite; signal: SignalRow };
export const KINDS: { readonly [Of in ImportOptions['of']]: Kind<Values[Of]> } = { contact, company, deal, signal };

/** What a row is written as; all rows of a file are of one kind. */
export type Written = Values[ImportOptions['of']];
export const kindOf = ({ of }: Pick<ImportOptions, 'of'>): Kind<Written> => KINDS[of] as unknown as Kind<Written>;

/** Whether an import can bring what a column is to go to. */
export function takes(target: string, { of, signalType }: ImportOptions, catalogue: Catalogue): boolean {
  if (KINDS[of].targets.includes(target)) return true;
  const [kind = '', key = ''] = target.split(/:(.*)/s);
  if (kind === 'detail' && of === 'signal') return hasDetail(key, catalogue.find('signalType', signalType ?? '')?.body.fields ?? []);
  const whose = of === 'signal' ? 'contact' : of;
  if (kind === 'field') return catalogue.all('field').some((field) => field.key === key && field.body.of === whose);
  return kind === 'tag' && whose === 'contact' && catalogue.all('tag').some((tag) => tag.key === key);
}

function hasDetail(path: string, fields: readonly DetailField[]): boolean {
  const [first, ...inner] = path.split('.');
  const field = fields.find(({ key }) => key === first);
  if (!field) return false;
  if (inner.length === 0) return true;
  return field.type === 'answers' || hasDetail(inner.join('.'), field.of ?? []);
}
