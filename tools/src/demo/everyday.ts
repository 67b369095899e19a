import { type CloudEvent } from '@eager-sieve/contracts';
import { Chance } from './chance';
import { EVENTS, PAGES, visitOf, type DemoContact, type PageVisit } from './world';

const DAY_MS = 86_400_000;
const MINUTE_MS = 60_000;
/** Visits and the like go back so many days. */
const PAST_DAYS = 240;
/** The most curious came to look around so often at most. */
const MOST_VISITS = 16;
const MOST_PAGES = 6;
/** What people look at, by what they care for. */
const TASTES = ['/glazes', '/wheels', '/clay', '/classes', '/open-studio'] as const;
const FILES = ['Firing chart.pdf', 'Glaze recipes.pdf', 'Class calendar.pdf', 'How to choose a wheel.pdf'] as const;
const COURSES = ['Wheel throwing for beginners', 'Glazing in twelve weeks', 'Firing safely'] as const;
const GROUPS = ['Thursday throwers', 'Kiln sharers'] as const;
const ASKED = ['When is the next class?', 'A cracked bag of clay', 'Is the studio open on Sunday?', 'Pick up on Friday'] as const;

/** What fills most days of the studio: people look around, download, register for evenings, call. About ten signals a contact, the oldest first. */
export function makeEverydaySignals(contacts: readonly DemoContact[], now: number): CloudEvent[] {
  const days = new Days(now);
  for (const contact of contacts) {
    days.lookAround(contact);
    days.goOut(contact);
    days.talk(contact);
  }
  for (const contact of contacts) days.agree(contact);
  return days.events.sort((a, b) => String(a.time).localeCompare(String(b.time)));
}

class Days {
  readonly events: CloudEvent[] = [];
  readonly #chance = new Chance(240);

  constructor(private readonly now: number) {}

  lookAround(contact: DemoContact): void {
    const chance = this.#chance;
    const taste = chance.pick(TASTES);
    for (let visits = chance.below(1 + Math.round(contact.interest * MOST_VISITS)); visits > 0; visits -= 1) {
      let at = this.#when();
      for (let pages = 1 + chance.below(MOST_PAGES); pages > 0; pages -= 1) {
        this.#add('site', 'page.visited', contact, at, pageOf(chance, taste));
        at += (1 + chance.below(4)) * MINUTE_MS;
      }
    }
    if (chance.happens(contact.interest * 0.3)) this.#add('site', 'file.downloaded', contact, this.#when(), { file: chance.pick(FILES) });
  }

  /** Evenings, courses and the groups of those who come often. */
  goOut(contact: DemoContact): void {
    const chance = this.#chance;
    if (chance.happens(contact.interest * 0.25)) {
      const event = chance.pick(EVENTS);
      const at = this.#when();
      this.#add('studio', 'event.registered', contact, at, { event });
      if (chance.happens(0.2)) this.#add('studio', 'event.missed', contact, at + 9 * DAY_MS, { event });
    }
    if (chance.happens(contact.interest * 0.1)) {
      const course = chance.pick(COURSES);
      const at = this.#when();
      this.#add('courses', 'course.started', contact, at, { course });
      if (chance.happens(0.6)) this.#add('courses', 'course.finished', contact, at + 40 * DAY_MS, { course, mark: 5 + chance.below(6) });
    }
    if (chance.happens(contact.interest * 0.06)) {
      const group = chance.pick(GROUPS);
      const at = this.#when();
      this.#add('courses', 'group.joined', contact, at, { group });
      this.#add('courses', 'role.given', contact, at + MINUTE_MS, { role: 'Member' });
      if (chance.happens(0.2)) {
        this.#add('courses', 'group.left', contact, at + 30 * DAY_MS, { group });
        this.#add('courses', 'role.taken', contact, at + 30 * DAY_MS + MINUTE_MS, { role: 'Member' });
      }
    }
  }

  talk(contact: DemoContact): void {
    const chance = this.#chance;
    if (chance.happens(contact.interest * 0.08)) {
      const subject = chance.pick(ASKED);
      const at = this.#when();
      this.#add('phones', 'call.received', contact, at, { subject });
      if (chance.happens(0.4)) this.#add('phones', 'call.made', contact, at + DAY_MS, { answered: chance.happens(0.7), subject });
    }
    if (chance.happens(contact.interest * 0.05)) this.#add('post-room', 'message.received', contact, this.#when(), { channel: 'email' });
    if (chance.happens(contact.interest * 0.03))
      this.#add('studio', 'meeting.held', contact, this.#when(), { subject: 'A look at the kilns' });
    if (chance.happens(contact.interest * 0.04))
      this.#add('studio', 'note.added', contact, this.#when(), { subject: 'Talked at the till' });
    if (chance.happens(contact.interest * 0.12))
      this.#add('wall', 'post.reacted', contact, this.#when(), {
        network: 'Clay wall',
        reaction: chance.pick(['like', 'heart', 'question']),
      });
  }

  /** A few say at the till that they may be texted, and some of them take it back. */
  agree(contact: DemoContact): void {
    const chance = this.#chance;
    if (!chance.happens(contact.interest * 0.03)) return;
    const at = this.#when();
    this.#add('studio', 'consent.given', contact, at, { channel: 'text' });
    if (chance.happens(0.3)) this.#add('studio', 'consent.withdrawn', contact, at + 20 * DAY_MS, { channel: 'text' });
  }

  #when(): number {
    return this.now - Math.floor(this.#chance.next() ** 1.15 * PAST_DAYS * DAY_MS) - 30 * MINUTE_MS;
  }

  /** What would lie ahead has not happened yet. */
  #add(source: string, type: string, contact: DemoContact, at: number, data: unknown): void {
    if (at > this.now - MINUTE_MS) return;
    this.events.push({
      specversion: '1.0',
      source,
      id: `everyday-${type}-${this.events.length}`,
      type,
      time: new Date(at).toISOString(),
      subject: contact.email,
      data,
    });
  }
}

/** Most pages are of what somebody cares for. */
function pageOf(chance: Chance, taste: string): PageVisit {
  const own = PAGES.filter((page) => page.startsWith(taste));
  const path = own.length > 0 && chance.happens(0.6) ? chance.pick(own) : chance.pick(PAGES);
  return visitOf(path);
}
