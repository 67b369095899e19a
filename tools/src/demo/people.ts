/** Who can sign in to the demo. All of it is made up. */
export const DEMO_PEOPLE = [
  { email: 'wren@fernhollow.example', name: 'Wren Aldous', role: 'admin', password: 'clay-and-water' },
  { email: 'sol@fernhollow.example', name: 'Sol Marchetti', role: 'editor', password: 'slip-and-score' },
  { email: 'ines@fernhollow.example', name: 'Ines Vogt', role: 'viewer', password: 'look-do-not-touch' },
] as const;
