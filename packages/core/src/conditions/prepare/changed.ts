import { storageOf } from '../../contacts/fields.ts';
import { readFact } from '../../contacts/facts.ts';
import { recordedValue } from '../../contacts/changes.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { prepareWindow } from '../../time/window.ts';
import { changeKey, type LeafNode } from '../node.ts';
import { type LeafOf } from '../schema.ts';
import { broken, ok, type Path } from './faulty.ts';
import { countTest } from './signals.ts';

type ChangeLeaf = LeafOf<'change'>;

/** Makes a question about what changed ready: the values on either side are written as the history keeps them. */
export function prepareChanged(leaf: ChangeLeaf, catalogue: Catalogue, path: Path): LeafNode {
  const needsKey = leaf.what === 'field' || leaf.what === 'band';
  if (needsKey !== (leaf.key !== undefined))
    throw broken([...path, 'key'], 'change.key', needsKey ? `the key of a ${leaf.what === 'field' ? 'field' : 'scorecard'}` : 'no key');
  const read = reader(leaf, catalogue, path);
  const merged = mergedChoices(leaf, catalogue);
  const side = (which: 'from' | 'to'): readonly (string | null)[] | undefined =>
    leaf[which]?.flatMap((value, index) => {
      if (value === null) return [null];
      const kept = read(value, [...path, which, index]);
      return [kept, ...merged(kept)];
    });
  return {
    kind: 'change',
    of: changeKey(leaf.what, leaf.key),
    from: side('from'),
    to: side('to'),
    window: ok(prepareWindow(leaf.within, catalogue.zone, [...path, 'within'])),
    test: countTest(leaf.count, catalogue, [...path, 'count']),
  };
}

/** The choices that were merged into one: the history keeps them as they were when somebody had them. */
function mergedChoices({ what, key }: ChangeLeaf, catalogue: Catalogue): (kept: string) => readonly string[] {
  const options = (what === 'field' && catalogue.body('field', key as number)?.options) || [];
  return (kept) => options.filter(({ replacedBy }) => replacedBy === kept).map((option) => option.key);
}

type Side = NonNullable<ChangeLeaf['from']>[number];

function reader(leaf: ChangeLeaf, catalogue: Catalogue, path: Path): (value: NonNullable<Side>, at: Path) => string {
  switch (leaf.what) {
    case 'stage':
      return (value, at) => {
        if (!catalogue.get('stage', Number(value))) throw broken(at, 'stage.unknown', 'a stage that exists, or null for none');
        return String(value);
      };
    case 'owner':
      return (value, at) => {
        const email = String(value).trim().toLowerCase();
        if (catalogue.people?.has(email) === false)
          throw broken(at, 'owner.unknown', `the sign-in email of someone with access, which ${email} is not`);
        return email;
      };
    case 'band': {
      const card = catalogue.get('scorecard', leaf.key as number);
      if (!card) throw broken([...path, 'key'], 'scorecard.unknown', 'a scorecard that exists');
      const known = card.body.bands.map((band) => band.key);
      return (value, at) => {
        if (!known.includes(String(value))) throw broken(at, 'band.unknown', `one of ${known.join(', ')}`);
        return String(value);
      };
    }
    case 'field': {
      const field = catalogue.get('field', leaf.key as number);
      if (!field) throw broken([...path, 'key'], 'field.unknown', 'a field that exists');
      if (storageOf[field.body.type] === 'choices' && (leaf.from ?? leaf.to))
        throw broken(path, 'change.choices', 'no "from" or "to": a field of several choices changes as a whole');
      return (value, at) => {
        const fact = ok(readFact(field.body, value, catalogue.workspace, at));
        if (fact === undefined) throw broken(at, 'value.empty', 'null for empty');
        return recordedValue(fact.fact);
      };
    }
  }
}
