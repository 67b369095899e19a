import { type Subject } from '../contacts/subject.ts';
import { NO_EXTRAS, type ContactColumns, type Extras } from './contact-columns.ts';

/** A cursor that presents one contact after another as a subject: the caller moves `at`. */
export class ContactRow implements Subject {
  at = 0;
  readonly kind = 'contact';
  readonly facts: Subject['facts'];
  readonly tags: Subject['tags'];
  readonly pastTags: Subject['pastTags'];
  readonly consent: Subject['consent'];
  readonly signals: Subject['signals'];
  readonly newest: NonNullable<Subject['newest']>;
  readonly scores: Subject['scores'];
  readonly memberships: Subject['memberships'];
  readonly leavings: Subject['leavings'];
  readonly changes: Subject['changes'];
  readonly contacts = [];
  readonly #columns: ContactColumns;

  constructor(columns: ContactColumns) {
    this.#columns = columns;
    this.facts = columns.facts.oneOver(this);
    this.tags = columns.tags.oneOver(this);
    this.pastTags = columns.pastTags.allOver(this);
    this.consent = columns.consent.oneOver(this);
    this.signals = columns.signals.allOver(this);
    this.newest = { get: (type) => columns.signals.of(type)?.last(this.at)?.time };
    this.scores = columns.scores.oneOver(this);
    this.memberships = columns.memberships.oneOver(this);
    this.leavings = columns.leavings.oneOver(this);
    this.changes = columns.changes.allOver(this);
  }

  get stage(): Subject['stage'] {
    return this.#columns.stage.first(this.at);
  }
  get owner(): Subject['owner'] {
    return this.#columns.owner.first(this.at);
  }
  get companyFacts(): Subject['companyFacts'] {
    const company = this.#columns.company.first(this.at);
    return company === undefined ? undefined : this.#columns.companies.get(company);
  }
  get dealDetails(): Subject['dealDetails'] {
    return this.#extras.dealDetails;
  }
  get latchedLines(): Subject['latchedLines'] {
    return this.#extras.latchedLines;
  }
  get points(): Subject['points'] {
    return this.#extras.points;
  }
  get pins(): Subject['pins'] {
    return this.#extras.pins;
  }
  get #extras(): Extras {
    return this.#columns.extras.get(this.at) ?? NO_EXTRAS;
  }
}
