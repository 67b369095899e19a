import { evenly } from './dry-passes';

const alone = (id: number) => ({ id, company_id: null });

describe('some who stand for all', () => {
  it('are about as many as asked for, from the first to the last of them', () => {
    const all = Array.from({ length: 10_000 }, (_, id) => alone(id));
    const some = evenly(all, 1_000);
    expect(some).toHaveLength(1_000);
    expect(some.filter(({ id }) => id < 5_000)).toHaveLength(500);
  });

  it('are all of them where they are few', () => {
    const all = [alone(1), alone(2), alone(3)];
    expect(evenly(all, 10)).toEqual(all);
  });

  it('part nobody from the others of their company', () => {
    const all = Array.from({ length: 3_000 }, (_, id) => ({ id, company_id: Math.floor(id / 7) }));
    const some = evenly(all, 300);
    for (const company of new Set(some.map((each) => each.company_id)))
      expect(some.filter((each) => each.company_id === company)).toHaveLength(all.filter((each) => each.company_id === company).length);
    expect(some.length).toBeGreaterThan(200);
    expect(some.length).toBeLessThan(400);
  });
});
