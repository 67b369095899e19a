import { Injectable } from '@nestjs/common';
import { type Catalogue } from '@eager-sieve/core';
import { type ValuesView } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { ServerClock } from '../engine/server-clock';
import { DefinitionStore } from '../settings/definition-store';
import { held, valuesInDetails, valuesInFields, type Found } from './queries/values';

/** So long what was found is good enough to be offered. */
const FRESH_MS = 60_000;
/** Who is who is found by searching for them, and no list of names is offered to pick from. */
const NAMES: ReadonlySet<string> = new Set(['email', 'given-name', 'family-name']);
/** More texts than this, of which each stands there once or twice, are numbers of orders and the like: nobody picks one. */
const MANY = 100;

/** Which texts stand in fields and in the details of signals, to be offered and to be read where somebody types one. */
@Injectable()
export class ValuesService {
  #latest: { readonly epoch: number; readonly at: number; readonly view: Promise<ValuesView> } | undefined;

  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  /** As of up to a minute ago. */
  async view(): Promise<ValuesView> {
    const { compiled, epoch } = await this.store.current(this.database);
    const at = this.clock.now();
    if (this.#latest?.epoch !== epoch || at - this.#latest.at > FRESH_MS) {
      const view = this.#find(compiled.catalogue);
      const latest = { epoch, at, view };
      this.#latest = latest;
      view.catch(() => {
        if (this.#latest === latest) this.#latest = undefined;
      });
    }
    return this.#latest.view;
  }

  async #find(catalogue: Catalogue): Promise<ValuesView> {
    const fields = catalogue.all('field').filter(({ key, body }) => body.type === 'text' && body.of !== 'deal' && !NAMES.has(key));
    const types = new Map(catalogue.all('signalType').map(({ id, body }) => [id as number, body.fields]));
    const isText = (type: number, path: string): boolean => {
      const [first, inner] = path.split('.');
      const field = types.get(type)?.find(({ key }) => key === first);
      const detail = inner === undefined ? field : field?.of?.find(({ key }) => key === inner);
      return detail?.type === 'text';
    };
    const inFields = await valuesInFields(
      this.database,
      fields.map(({ id }) => id),
    );
    const inDetails = await valuesInDetails(this.database);
    const fieldKeys = new Map(fields.map(({ id, key }) => [id as number, key]));
    const typeKeys = new Map(catalogue.all('signalType').map(({ id, key }) => [id as number, key]));
    return {
      fields: gathered(inFields).map(({ of, values, distinct }) => ({ field: fieldKeys.get(of) ?? '', values, distinct })),
      details: gathered(inDetails.filter(({ of, path }) => isText(of, path))).map(({ of, path, ...rest }) => ({
        signal: typeKeys.get(of) ?? '',
        path,
        ...rest,
      })),
      held: (await held(this.database)).flatMap(({ id, count }) => {
        const { kind, key } = catalogue.any(id) ?? {};
        return isHeld(kind) && key !== undefined ? [{ kind, key, count }] : [];
      }),
    };
  }
}

type Held = ValuesView['held'][number]['kind'];
const isHeld = (kind: string | undefined): kind is Held =>
  kind === 'field' || kind === 'tag' || kind === 'signalType' || kind === 'audience';

interface Gathered {
  readonly of: number;
  readonly path: string;
  readonly values: { value: string; count: number }[];
  /** how many different ones there are, those that are not listed too */
  readonly distinct: number;
}

function gathered(found: readonly Found[]): Gathered[] {
  const places = new Map<string, Gathered>();
  for (const { of, path, value, count, distinct, all } of found) {
    if (distinct > MANY && all < 3 * distinct) continue;
    const place = places.get(`${of} ${path}`) ?? { of, path, values: [], distinct };
    place.values.push({ value, count });
    places.set(`${of} ${path}`, place);
  }
  return [...places.values()];
}
