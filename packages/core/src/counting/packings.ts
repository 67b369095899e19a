import { type RecordedChange } from '../contacts/changes.ts';
import { type Fact } from '../contacts/facts.ts';
import { type PastTag } from '../contacts/subject.ts';
import { type Details } from '../intake/details.ts';
import { type Signal } from '../intake/signal.ts';
import { type ConsentState } from '../settings/consent.ts';
import { type SignalTypeId, type StageId } from '../settings/ids.ts';
import { type Instant } from '../time/zone.ts';
import { type Packed, type Packing } from './rows.ts';
import { Texts } from './texts.ts';

/** What rows need of others: the texts under their numbers. */
export interface Known {
  /** texts of facts, bands, owners, sources, values that changed */
  readonly texts: Texts;
  readonly details: DetailTexts;
}

/** So many details are held taken apart. */
const MOST_READ = 50_000;

/** The details of signals, those that are alike once. They are held as text, and taken apart when they are asked for. */
export class DetailTexts {
  readonly texts: Texts;
  readonly #read = new Map<number, Details>();

  constructor(texts = new Texts()) {
    this.texts = texts;
  }

  code(details: Details): number {
    return this.texts.code(JSON.stringify(details));
  }

  of(code: number): Details {
    let details = this.#read.get(code);
    if (details === undefined) {
      details = JSON.parse(this.texts.of(code)) as Details;
      if (this.#read.size === MOST_READ) this.#read.clear();
      this.#read.set(code, details);
    }
    return details;
  }
}

/** Several choices as one text: U+0000 is in no text that is stored. */
const [LIST, NEXT] = ['\0', '\u0001'];

/** A fact by its code; 0 stands for a number, which has a column of its own. */
export const factOfCode = (texts: Texts, code: number, number: number): Fact => {
  if (code === 0) return number;
  const text = texts.of(code);
  return text.startsWith(LIST) ? text.slice(1).split(NEXT) : text;
};

export const factRows = ({ texts }: Known): Packing<Fact> => ({
  takes: { numbers: 1, codes: 1 },
  write: (fact, { numbers, codes }, index) => {
    const text = typeof fact === 'object' ? LIST + fact.join(NEXT) : fact;
    numbers[0]?.put(index, typeof text === 'number' ? text : 0);
    codes[0]?.put(index, typeof text === 'number' ? 0 : texts.code(text));
  },
  read: ({ numbers, codes }, index) => factOfCode(texts, codes[0]?.at(index) ?? 0, numbers[0]?.at(index) ?? 0),
});

interface TagRow {
  readonly since: Instant;
  readonly value?: number | undefined;
}
const [HAS_VALUE, WENT] = [1, 2] as const;

export const tagRows: Packing<TagRow> = {
  takes: { numbers: 2, codes: 1 },
  write: ({ since, value }, { numbers, codes }, index) => {
    numbers[0]?.put(index, since);
    numbers[1]?.put(index, value ?? 0);
    codes[0]?.put(index, value === undefined ? 0 : HAS_VALUE);
  },
  read: ({ numbers, codes }, index) => ({
    since: numbers[0]?.at(index) ?? 0,
    value: codes[0]?.at(index) === HAS_VALUE ? numbers[1]?.at(index) : undefined,
  }),
};

export const pastTagRows: Packing<PastTag> = {
  takes: { numbers: 3, codes: 1 },
  write: ({ since, until, value, went }, { numbers, codes }, index) => {
    numbers[0]?.put(index, since);
    numbers[1]?.put(index, until);
    numbers[2]?.put(index, value ?? 0);
    codes[0]?.put(index, (value === undefined ? 0 : HAS_VALUE) + (went ? WENT : 0));
  },
  read: ({ numbers, codes }, index) => {
    const flags = codes[0]?.at(index) ?? 0;
    return {
      since: numbers[0]?.at(index) ?? 0,
      until: numbers[1]?.at(index) ?? 0,
      value: (flags & HAS_VALUE) > 0 ? numbers[2]?.at(index) : undefined,
      went: (flags & WENT) > 0,
    };
  },
};

export const consentRows = ({ texts }: Known): Packing<{ readonly state: ConsentState }> => ({
  takes: { codes: 1 },
  write: ({ state }, { codes }, index) => codes[0]?.put(index, texts.code(state)),
  read: ({ codes }, index) => ({ state: texts.of(codes[0]?.at(index) ?? 0) as ConsentState }),
});

/** The text of a source in the code of where a signal came from. */
export const sourceOf = (from: number): number => from >>> 1;

/** A signal that is read out of its columns only as far as it is asked. */
class PackedSignal implements Signal {
  readonly typeId: SignalTypeId;
  readonly time: Instant;
  readonly #known: Known;
  readonly #packed: Packed;
  readonly #index: number;

  constructor(known: Known, typeId: SignalTypeId, packed: Packed, index: number) {
    this.#known = known;
    this.typeId = typeId;
    this.time = packed.numbers[0]?.at(index) ?? 0;
    this.#packed = packed;
    this.#index = index;
  }

  get id(): number {
    return this.#packed.numbers[1]?.at(this.#index) ?? 0;
  }
  get source(): string {
    return this.#known.texts.of(sourceOf(this.#from));
  }
  get historic(): boolean {
    return (this.#from & 1) === 1;
  }
  get senderId(): string {
    return this.#packed.texts[0]?.at(this.#index) ?? '';
  }
  get details(): Details {
    return this.#known.details.of(this.#packed.codes[1]?.at(this.#index) ?? 0);
  }
  get #from(): number {
    return this.#packed.codes[0]?.at(this.#index) ?? 0;
  }

  /** Where it stands, if it is of these columns. */
  indexIn(packed: Packed): number | undefined {
    return packed === this.#packed ? this.#index : undefined;
  }
}

export const signalRows = (known: Known, typeId: SignalTypeId): Packing<Signal> => ({
  takes: { numbers: 2, codes: 2, texts: 1 },
  write: ({ time, id, source, historic, details, senderId }, { numbers, codes, texts }, index) => {
    numbers[0]?.put(index, time);
    numbers[1]?.put(index, id);
    codes[0]?.put(index, known.texts.code(source) * 2 + (historic ? 1 : 0));
    codes[1]?.put(index, known.details.code(details));
    texts[0]?.add(index, senderId);
  },
  read: (packed, index) => new PackedSignal(known, typeId, packed, index),
  indexIn: (signal, packed) => (signal instanceof PackedSignal ? signal.indexIn(packed) : undefined),
});

interface ScoreRow {
  readonly points: number;
  readonly band: string | undefined;
  readonly bandSince: Instant | undefined;
}

export const scoreRows = ({ texts }: Known): Packing<ScoreRow> => ({
  takes: { numbers: 2, codes: 1 },
  write: ({ points, band, bandSince }, { numbers, codes }, index) => {
    numbers[0]?.put(index, points);
    numbers[1]?.put(index, bandSince ?? Number.NaN);
    codes[0]?.put(index, band === undefined ? 0 : texts.code(band));
  },
  read: ({ numbers, codes }, index) => {
    const [code, since] = [codes[0]?.at(index) ?? 0, numbers[1]?.at(index) ?? 0];
    return {
      points: numbers[0]?.at(index) ?? 0,
      band: code === 0 ? undefined : texts.of(code),
      bandSince: Number.isNaN(since) ? undefined : since,
    };
  },
});

export const sinceRows: Packing<{ readonly since: Instant | undefined }> = {
  takes: { numbers: 1 },
  write: ({ since }, { numbers }, index) => numbers[0]?.put(index, since ?? Number.NaN),
  read: ({ numbers }, index) => {
    const since = numbers[0]?.at(index) ?? 0;
    return { since: Number.isNaN(since) ? undefined : since };
  },
};

export const numberRows: Packing<number> = {
  takes: { numbers: 1 },
  write: (number, { numbers }, index) => numbers[0]?.put(index, number),
  read: ({ numbers }, index) => numbers[0]?.at(index) ?? 0,
};

export const changeRows = ({ texts }: Known): Packing<RecordedChange> => {
  const code = (text: string | null): number => (text === null ? 0 : texts.code(text));
  const of = (number: number): string | null => (number === 0 ? null : texts.of(number));
  return {
    takes: { numbers: 1, codes: 2 },
    write: ({ at, from, to }, { numbers, codes }, index) => {
      numbers[0]?.put(index, at);
      codes[0]?.put(index, code(from));
      codes[1]?.put(index, code(to));
    },
    read: ({ numbers, codes }, index) => ({
      at: numbers[0]?.at(index) ?? 0,
      from: of(codes[0]?.at(index) ?? 0),
      to: of(codes[1]?.at(index) ?? 0),
    }),
  };
};

export const stageRows: Packing<{ readonly id: StageId; readonly since: Instant }> = {
  takes: { numbers: 1, codes: 1 },
  write: ({ id, since }, { numbers, codes }, index) => {
    numbers[0]?.put(index, since);
    codes[0]?.put(index, id);
  },
  read: ({ numbers, codes }, index) => ({ id: codes[0]?.at(index) ?? 0, since: numbers[0]?.at(index) ?? 0 }),
};

export const textRows = ({ texts }: Known): Packing<string> => ({
  takes: { codes: 1 },
  write: (text, { codes }, index) => codes[0]?.put(index, texts.code(text)),
  read: ({ codes }, index) => texts.of(codes[0]?.at(index) ?? 0),
});
