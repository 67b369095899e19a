import { namedIn } from '../conditions/references.ts';
import { type Condition } from '../conditions/schema.ts';
import { rowsOf } from '../forms/answer-map.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type DefinitionKind } from '../settings/definitions.ts';
import { referencesIn } from './document.ts';
import { type TagId } from '../settings/ids.ts';

/** A definition that has to do with a tag. */
export interface TagUse {
  readonly kind: DefinitionKind;
  readonly key: string;
  readonly name: string;
  /** whether it does anything: a rule or a map can be off */
  readonly on: boolean;
}

interface TagUses {
  readonly givenBy: readonly TagUse[];
  readonly reliedOnIn: readonly TagUse[];
}

/** What gives a tag by itself, and what would come out otherwise without it. What neither names is given by hand, by an import or by the API. */
export function usesOfTag(catalogue: Catalogue, tag: TagId): TagUses {
  const use = ({ kind, key, name, body }: AnyDefinition): TagUse => ({ kind, key, name, on: !('on' in body) || body.on });
  const gives = (action: { readonly do: string; readonly tag?: unknown }): boolean => action.do === 'add tag' && action.tag === tag;
  const names = (condition: Condition | undefined): boolean => condition !== undefined && namedIn(condition).has(tag);
  const givenBy: readonly AnyDefinition[] = [
    ...catalogue.all('rule').filter(({ body }) => body.then.some(gives)),
    ...catalogue.all('bundle').filter(({ body }) => body.then.some(({ action }) => gives(action))),
    ...catalogue
      .all('form')
      .filter(
        ({ body }) =>
          body.doneTags?.includes(tag) ||
          body.questions.some(
            (question) => question.does?.some(gives) || rowsOf(question).some((row) => row.add?.includes(tag) || row.does?.some(gives)),
          ),
      ),
    ...catalogue.all('map').filter(({ body }) => body.rows.some((row) => [...row.add, ...(row.whenTaken?.add ?? [])].includes(tag))),
    ...catalogue.all('message').filter(({ body }) => body.links.some((link) => link.tag === tag)),
  ] as readonly AnyDefinition[];
  const reliedOnIn: readonly AnyDefinition[] = [
    ...catalogue.all('audience').filter((each) => referencesIn(each as AnyDefinition).has(tag)),
    ...catalogue.all('scorecard').filter((each) => referencesIn(each as AnyDefinition).has(tag)),
    ...catalogue.all('rule').filter(({ body: { when, if: condition } }) => {
      const set = when.kind === 'becomes' ? names(when.condition) : when.kind === 'date' && when.tag === tag;
      return set || names(condition);
    }),
    ...catalogue.all('routing').filter(({ body }) => body.rows.some((row) => names(row.if))),
    ...catalogue.all('bundle').filter(({ body }) => body.then.some((step) => names(step.if))),
    ...catalogue.ladder().filter(({ body }) => names(body.needs)),
  ] as readonly AnyDefinition[];
  return { givenBy: givenBy.map(use), reliedOnIn: reliedOnIn.map(use) };
}
