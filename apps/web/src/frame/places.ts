/** The places in the order in which the work flows, with the letter that `g` goes there by and the mesh that lies above each: finer on the way down. */
export const PLACES = [
  { path: '/', name: 'Today', letter: 't', needs: 'audiences:read' },
  { path: '/people', name: 'People', letter: 'p', needs: 'contacts:read' },
  { path: '/intake', name: 'Intake', letter: 'i', mesh: '8px', needs: 'signals:read' },
  { path: '/tags', name: 'Tags', letter: 'h', mesh: '8px', needs: 'definitions:read' },
  { path: '/rules', name: 'Rules', letter: 'r', needs: 'definitions:read' },
  { path: '/scores', name: 'Scores', letter: 's', mesh: '5px', needs: 'definitions:read' },
  { path: '/audiences', name: 'Audiences', letter: 'a', mesh: '5px', needs: 'audiences:read' },
  { path: '/campaigns', name: 'Campaigns', letter: 'c', mesh: '3.6px', needs: 'campaigns:read' },
  { path: '/ledger', name: 'Ledger', letter: 'l', needs: 'ledger:read', low: true },
  { path: '/settings', name: 'Settings', letter: 'e', needs: 'definitions:read', low: true },
] as const;

export const KEYS: readonly (readonly [string, string])[] = [
  ['g then t p i h r s a c l e', 'go to Today, People, Intake, Tags, Rules, Scores, Audiences, Campaigns, Ledger, Settings'],
  ['/', 'search contacts and definitions'],
  ['n', 'make a new one of what this page lists'],
  ['j  k', 'next and previous row'],
  ['x', 'tick the row, in the table of people'],
  ['d  l  s', 'done, later, skip: while a worklist is worked down'],
  ['w', 'why: the trace of the fact that has the focus, or of the first one'],
  ['r', 'rehearse (on a rule)'],
  ['Ctrl+Z  Ctrl+Shift+Z', 'undo what was changed on the page, and do it again'],
  ['Esc', 'close, or back'],
  ['Ctrl+/', 'the keys of the outline'],
  ['?', 'this list'],
];

export const OUTLINE_KEYS: readonly (readonly [string, string])[] = [
  ['Enter', 'take the completion, or the likeliest meaning'],
  ['!', 'first on a line: its opposite'],
  ['Ctrl+]  Ctrl+[', 'into and out of a group'],
  ['Alt+↑  Alt+↓', 'move the line'],
  ['Delete', 'remove the line that has the focus'],
  ['↑  ↓', 'to the line above and below'],
];
