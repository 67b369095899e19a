import { type Catalogue } from '../settings/catalogue.ts';
import { type StoredEntry } from './effect.ts';
import { EFFECTS, isEffectName, readEntry, thingOf, wordsFor, type Telling } from './effects.ts';

export const tellingOf = (entry: StoredEntry, catalogue: Catalogue): Telling => {
  const thing = thingOf(entry, catalogue);
  return { catalogue, name: (thing?.kind === 'tag' ? thing.key : thing?.name) ?? '' };
};

/** One effect as a sentence: "Tag snag.price added", "Keenness: quiet → keen", "Rule Price ran, version 2". */
export function effectWords(stored: StoredEntry, catalogue: Catalogue): string {
  const entry = readEntry(stored);
  const telling = tellingOf(stored, catalogue);
  return entry ? wordsFor(entry).words(entry, telling) : settingWords(stored, telling.name);
}

/** The same in the few words of a list: `+ snag.price`. */
export function effectBrief(stored: StoredEntry, catalogue: Catalogue): string {
  const entry = readEntry(stored);
  if (!entry) return effectWords(stored, catalogue);
  const { words, brief = words } = wordsFor(entry);
  return brief(entry, tellingOf(stored, catalogue));
}

/** What was done about access, runs and files, by its verb. The cause beside it says by whom. */
const ACCESS: Readonly<Record<string, (after: AccessKept) => string>> = {
  'signed in': ({ email }) => `${email} signed in`,
  'sign-in failed': ({ email, from }) => `A sign-in${email ? ` as ${email}` : ''} failed${from ? `, from ${from}` : ''}`,
  'signed out': ({ email }) => `${email} was signed out`,
  'recovery code used': ({ email, left }) => `${email} used a recovery code; ${left ?? 0} are left`,
  'person invited': ({ email, role }) => `${email} was invited as ${role}`,
  'role changed': ({ email, from, to }) => `The role of ${email} changed from ${from} to ${to}`,
  'team changed': ({ email, to, seesTeam }) =>
    `${email} ${to ? `is in the team ${to}` : 'is in no team'}${seesTeam ? ' and sees the contacts of all of it' : ''}`,
  'person disabled': ({ email }) => `${email} may not sign in any more`,
  'person enabled': ({ email }) => `${email} may sign in again`,
  'sign-in reset': ({ email }) => `The password of ${email} was reset`,
  'access taken away': ({ email }) => `${email} was removed`,
  'password set': ({ email }) => `${email} set a password`,
  'password changed': ({ email }) => `${email} changed their password`,
  'second factor on': ({ email }) => `${email} turned their second factor on`,
  'second factor off': ({ email }) => `${email} turned their second factor off`,
  'key made': ({ name }) => `The key ${name} was made`,
  'key first used': ({ name }) => `The key ${name} was used for the first time`,
  'key renamed': ({ name, before }) => (name && before ? `The key ${before} is called ${name} now` : 'A key was given another name'),
  'key restored': ({ name }) => `${name ? `The key ${name}` : 'A key'} was let in again`,
  'key revoked': ({ name }) => `${name ? `The key ${name}` : 'A key'} was revoked`,
  'answers exported': ({ name }) => `The answers to ${name} were exported as CSV`,
  'members exported': ({ name, format }) => `The members of ${name} were exported as ${format}`,
  'personal data exported': ({ format }) => `Everything about one contact was exported as ${format}`,
  'worklist exported': ({ name, format }) => `The worklist ${name} was exported as ${format}`,
  'deals exported': ({ format }) => `A table of deals was exported as ${format}`,
  'companies exported': ({ format }) => `A table of companies was exported as ${format}`,
  'people exported': ({ format }) => `A table of people was exported as ${format}`,
  'ledger exported': () => 'The ledger was exported as CSV',
  'definitions exported': () => 'The definitions were exported',
  'set aside tried again': () => 'What had been set aside was tried again',
  'set aside dropped': () => 'What had been set aside was dropped',
  'messages paused': () => 'Messages were paused',
  'messages let go': () => 'Messages were let go',
  'message downloaded': () => 'A message of the post room was downloaded',
  'rule run once': ({ name }) => `The rule ${name} was run once`,
  'bundle run once': ({ name }) => `The bundle ${name} was run by hand`,
  'many changed': ({ name, people, companies }) =>
    `${companies === undefined ? `${people ?? 'Many'} contacts` : `${companies} companies`} were changed at once: ${name}`,
  'map run once': ({ name }) => `The signal map ${name} was run on what came before`,
  'run ended': ({ name }) => `A run of ${name ?? 'something that is gone'} was ended`,
  'file watched': ({ name }) => `The file ${name} is watched`,
  'watched file changed': ({ name }) => `How the file ${name} is watched was changed`,
  'file watched no more': ({ name }) => `The file ${name} is watched no more`,
  'watched file looked at': ({ name }) => `The file ${name} was asked to be read`,
  'gone from a watched file: done': ({ name }) => `Those gone from the file ${name} were seen to`,
  'gone from a watched file: left as they are': ({ name }) => `Those gone from the file ${name} were left as they are`,
};
interface AccessKept {
  readonly email?: string | null;
  readonly before?: string;
  readonly name?: string;
  readonly role?: string;
  readonly from?: string;
  readonly to?: string;
  readonly left?: number;
  readonly format?: string;
  readonly people?: number;
  readonly companies?: number;
  readonly seesTeam?: boolean;
}

/** Effects on the workspace itself; most are named by their verb: "workspace changed". */
function settingWords({ kind, verb, after }: StoredEntry, name: string): string {
  const access = Object.hasOwn(ACCESS, verb) ? ACCESS[verb] : undefined;
  if (access) return access((after ?? {}) as AccessKept);
  switch (verb) {
    case 'build stopped':
      return `Bringing up ${nameIn(after)} was stopped`;
    case 'build gone on with':
      return `Bringing up ${nameIn(after)} went on`;
    case 'sent':
      return `${name} was sent`;
    case 'made':
    case 'changed':
    case 'retired':
      return `${name || 'What has gone since'} was ${verb}`;
    default:
      return `${kind === 'setting' ? '' : `${kind} `}${verb} ${name}`.trim().replace(/^./, (first) => first.toUpperCase());
  }
}

const nameIn = (value: unknown): string => (value as { readonly name?: string } | null)?.name ?? 'what was changed';

/** What so many effects of one kind and verb are: "tasks made" for two. @param name kind and verb, such as `task made` */
export function countedWords(name: string, count: number): string {
  if (!isEffectName(name)) return name;
  const [one, many] = EFFECTS[name].counted;
  return count === 1 ? one : many;
}
