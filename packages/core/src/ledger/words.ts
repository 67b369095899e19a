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

/** Effects on the workspace itself; most are named by their verb: "workspace changed", "key made", "access given". */
function settingWords({ kind, verb, after }: StoredEntry, name: string): string {
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
