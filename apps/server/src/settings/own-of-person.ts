import { type Role } from '@eager-sieve/contracts';
import { type Own } from '../contacts/own';
import { type Sql } from '../database/database';
import { Person } from '../database/entities';

interface SellersPerson {
  readonly email: string;
  readonly role: Role;
  readonly team: string | null;
  readonly seesTeam: boolean;
}

/** What somebody sees, as their role and team stand now. */
export async function ownOfPerson(sql: Sql, { email, role, team, seesTeam }: SellersPerson): Promise<Own> {
  if (role !== 'seller') return undefined;
  if (team === null || !seesTeam) return { owners: [email], team };
  const persons = await sql.read(Person).find({ select: { id: true, email: true }, where: { team }, order: { id: 'asc' } });
  return { owners: persons.map((each) => each.email), team };
}
