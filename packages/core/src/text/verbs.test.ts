import { participleOf, presentOf, verbForms } from './verbs.ts';

describe('the forms of a verb', () => {
  it.each([
    ['ordered', 'ordered'],
    ['was called', 'been called'],
    ['wrote to us', 'written to us'],
    ['put a pot aside', 'put a pot aside'],
    ['withdrew consent', 'withdrawn consent'],
  ])('behind "has", of %s', (verb, expected) => expect(participleOf(verb)).toBe(expected));

  it.each([
    ['rented a kiln', ['rented a kiln', 'rent a kiln', 'renting the kiln', 'rented any kiln', 'rent kiln']],
    ['planned a visit', ['plan a visit', 'planning the visit']],
    ['tried a glaze', ['try a glaze', 'trying the glaze']],
    ['used the wheel', ['use the wheel', 'using the wheel']],
    ['drove a van', ['drive a van', 'driven the van', 'driving any van']],
    ['fizzled', ['fizzled', 'fizzle']],
  ])('as people say them, of %s', (verb, expected) => expect(verbForms(verb)).toEqual(expect.arrayContaining(expected)));

  it.each(
    `ordered orders, answered answers, left leaves, started starts, renewed renews, let lets, bounced bounces, opened opens, clicked clicks, replied replies,
     wrote writes, unsubscribed unsubscribes, visited visits, downloaded downloads, registered registers, attended attends, missed misses, called calls,
     met meets, reacted reacts, joined joins, finished finishes, agreed agrees, gave gives, withdrew withdraws, was is, had has, rented rents,
     planned plans, changed changes, used uses, closed closes, shared shares, named names, decided decides, traded trades, avoided avoids, filed files,
     mailed mails, hired hires, toured tours, prepared prepares, appeared appears, looked looks, baked bakes, tuned tunes, joined joins, activated activates,
     treated treats, completed completes, targeted targets, contributed contributes, settled settles, passed passes, drove drives, did does, went goes,
     developed develops, invited invites, edited edits, watched watches, moved moves, merged merges, engaged engages, danced dances, played plays`
      .split(',')
      .map((pair) => pair.trim().split(' ') as [string, string]),
  )('of what happens now, of %s', (past, now) => expect(presentOf(past)).toBe(now));
});
