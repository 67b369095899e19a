import { type DefinitionKind } from './definitions.ts';

const KIND_WORDS: Readonly<Record<DefinitionKind, string>> = {
  field: 'field',
  family: 'tag family',
  tag: 'tag',
  signalType: 'signal type',
  stage: 'stage',
  pipeline: 'pipeline',
  form: 'form',
  scorecard: 'scorecard',
  audience: 'audience',
  routing: 'routing table',
  map: 'signal map',
  bundle: 'bundle',
  rule: 'rule',
  message: 'message',
};

/** All kinds, what others are made from first. */
export const definitionKinds = Object.keys(KIND_WORDS) as readonly DefinitionKind[];

/** What a kind of definition is called in a sentence. */
export const kindWord = (kind: DefinitionKind): string => KIND_WORDS[kind];

/** The same with its article: “an audience”. */
export const aKind = (kind: DefinitionKind): string => `${/^[aeiou]/.test(kindWord(kind)) ? 'an' : 'a'} ${kindWord(kind)}`;
