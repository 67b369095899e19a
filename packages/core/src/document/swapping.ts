import { ACTION_REFERENCES } from '../rules/actions.ts';
import { type DefinitionKind } from '../settings/definitions.ts';

type Path = readonly (string | number)[];

/** Swaps the references inside a body, kind by kind: the one list of where each kind names another. */
export class Swapping {
  readonly #reference: (kind: DefinitionKind, value: unknown, path: Path) => unknown;
  readonly #condition: (condition: unknown, path: Path) => unknown;

  constructor(
    reference: (kind: DefinitionKind, value: unknown, path: Path) => unknown,
    condition: (condition: unknown, path: Path) => unknown,
  ) {
    this.#reference = reference;
    this.#condition = condition;
  }

  body(kind: DefinitionKind, body: unknown): unknown {
    const given = body as Record<string, unknown>;
    switch (kind) {
      case 'tag':
        return {
          ...this.#with(given, { family: 'family', replacedBy: 'tag' }, []),
          ...(given['splitInto'] === undefined
            ? {}
            : {
                splitInto: this.#each(given['splitInto'], ['splitInto'], (part, path) => ({
                  ...this.#with(part, { tag: 'tag' }, path),
                  ...this.#optional(part, 'if', path),
                })),
              }),
        };
      case 'form':
        return {
          ...this.#with(given, { doneTags: 'tag' }, []),
          questions: this.#each(given['questions'], ['questions'], (question, path) => ({
            ...this.#answered(this.#with(question, { field: 'field' }, path), path),
            ...this.#rows(question, 'options', path),
            ...this.#rows(question, 'groups', path),
          })),
        };
      case 'stage':
        return {
          ...given,
          ...this.#optional(given, 'needs', []),
          ...(given['deals'] === undefined
            ? {}
            : { deals: this.#each(given['deals'], ['deals'], (deal, path) => this.#with(deal, { pipeline: 'pipeline' }, path)) }),
          ...(given['facts'] === undefined
            ? {}
            : { facts: this.#each(given['facts'], ['facts'], (fact, path) => this.#with(fact, { field: 'field' }, path)) }),
        };
      case 'message': {
        const links = this.#each(given['links'], ['links'], (link, path) => this.#with(link, { tag: 'tag' }, path));
        const texts =
          given['tagTexts'] === undefined
            ? {}
            : { tagTexts: this.#each(given['tagTexts'], ['tagTexts'], (text, path) => this.#with(text, { tag: 'tag' }, path)) };
        return { ...this.#with(given, { audience: 'audience' }, []), links, ...texts };
      }
      case 'audience':
        return { ...given, ...this.#optional(given, 'condition', []) };
      case 'routing':
        return { ...given, rows: this.#each(given['rows'], ['rows'], (row, path) => ({ ...row, ...this.#optional(row, 'if', path) })) };
      case 'map': {
        const rows = this.#each(given['rows'], ['rows'], (row, path) => ({
          ...this.#with(row, { add: 'tag', remove: 'tag' }, path),
          ...(row['whenTaken'] === undefined
            ? {}
            : {
                whenTaken: this.#with(row['whenTaken'] as Record<string, unknown>, { add: 'tag', remove: 'tag' }, [...path, 'whenTaken']),
              }),
        }));
        return { ...this.#with(given, { adds: 'signalType', takes: 'signalType' }, []), rows };
      }
      case 'bundle':
        return {
          ...given,
          then: this.#each(given['then'], ['then'], (step, path) => ({
            ...step,
            ...this.#optional(step, 'if', path),
            action: this.#with(step['action'] as Record<string, unknown>, ACTION_REFERENCES, [...path, 'action']),
          })),
        };
      case 'scorecard':
        return { ...given, lines: this.#each(given['lines'], ['lines'], (line, path) => this.#line(line, path)) };
      case 'rule':
        return this.#rule(given);
      case 'field':
        return this.#with(given, { replacedBy: 'field' }, []);
      case 'family':
      case 'signalType':
      case 'pipeline':
        return given;
    }
  }

  /** The rows of an answer map. */
  #rows(question: Record<string, unknown>, property: 'options' | 'groups', path: Path): Record<string, unknown> {
    if (question[property] === undefined) return {};
    const rows = this.#each(question[property], [...path, property], (row, at) =>
      this.#answered(this.#with(row, { add: 'tag', remove: 'tag' }, at), at),
    );
    return { [property]: rows };
  }

  /** What is done about an answer. */
  #answered(given: Record<string, unknown>, path: Path): Record<string, unknown> {
    if (given['does'] === undefined) return given;
    return { ...given, does: this.#each(given['does'], [...path, 'does'], (action, at) => this.#with(action, ACTION_REFERENCES, at)) };
  }

  #line(line: Record<string, unknown>, path: Path): unknown {
    return line['kind'] === 'fact'
      ? { ...line, condition: this.#condition(line['condition'], [...path, 'condition']) }
      : this.#with(line, { type: 'signalType' }, path);
  }

  #rule(rule: Record<string, unknown>): unknown {
    const when = rule['when'] as Record<string, unknown>;
    return {
      ...rule,
      when:
        when['kind'] === 'becomes'
          ? { ...when, condition: this.#condition(when['condition'], ['when', 'condition']) }
          : this.#with(when, { type: 'signalType', field: 'field', tag: 'tag' }, ['when']),
      ...this.#optional(rule, 'if', []),
      then: this.#each(rule['then'], ['then'], (action, path) => this.#with(action, ACTION_REFERENCES, path)),
    };
  }

  /** A condition that may be left out. */
  #optional(given: Record<string, unknown>, property: string, path: Path): Record<string, unknown> {
    return given[property] === undefined ? {} : { [property]: this.#condition(given[property], [...path, property]) };
  }

  #with(given: Record<string, unknown>, references: Readonly<Record<string, DefinitionKind>>, path: Path): Record<string, unknown> {
    const swapped = { ...given };
    for (const [property, kind] of Object.entries(references)) {
      const named = given[property];
      if (named === undefined) continue;
      const here = [...path, property];
      swapped[property] = Array.isArray(named)
        ? named.map((one, index) => this.#reference(kind, one, [...here, index]))
        : this.#reference(kind, named, here);
    }
    return swapped;
  }

  #each(list: unknown, path: Path, swap: (one: Record<string, unknown>, path: Path) => unknown): unknown {
    return (list as Record<string, unknown>[]).map((one, index) => swap(one, [...path, index]));
  }
}
