export interface DemoPerson {
  readonly email: string;
  readonly name: string;
  readonly role: string;
  readonly password: string;
  readonly team?: string;
  /** whether they see the contacts of everyone of their team */
  readonly seesTeam?: boolean;
}

/** Who can sign in to the demo. All of it is made up. */
export const DEMO_PEOPLE: readonly [DemoPerson, ...DemoPerson[]] = [
  { email: 'wren@fernhollow.example', name: 'Wren Aldous', role: 'admin', password: 'clay-and-water' },
  { email: 'sol@fernhollow.example', name: 'Sol Marchetti', role: 'editor', password: 'slip-and-score' },
  { email: 'ines@fernhollow.example', name: 'Ines Vogt', role: 'viewer', password: 'look-do-not-touch', team: 'Shop' },
  { email: 'tamsin@fernhollow.example', name: 'Tamsin Okoro', role: 'seller', password: 'ring-them-back', team: 'Shop', seesTeam: true },
];
