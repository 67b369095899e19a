import { type RouteName, type SessionView } from '@eager-sieve/contracts';
import { mayCall } from '../app/use-may';

export interface Place {
  readonly path: string;
  readonly name: string;
  /** that `g` goes there by */
  readonly letter: string;
  /** of the mesh that lies above it */
  readonly mesh?: string;
  /** where else its pages are */
  readonly also?: string;
  /** what its page asks first */
  readonly needs: readonly RouteName[];
  /** whether it stands at the foot */
  readonly low?: boolean;
}

/** The places in the order in which the work flows; the meshes between them are finer on the way down. */
export const PLACES: readonly Place[] = [
  { path: '/', name: 'Today', letter: 't', needs: ['today'] },
  { path: '/people', name: 'People', letter: 'p', also: '/tasks', needs: ['people'] },
  { path: '/intake', name: 'Intake', letter: 'i', mesh: '8px', needs: ['sources'] },
  { path: '/tags', name: 'Tags', letter: 'h', mesh: '8px', needs: ['definitions'] },
  { path: '/rules', name: 'Rules', letter: 'r', needs: ['definitions'] },
  { path: '/scores', name: 'Scores', letter: 's', mesh: '5px', needs: ['definitions'] },
  { path: '/audiences', name: 'Audiences', letter: 'a', mesh: '5px', needs: ['audiences'] },
  { path: '/campaigns', name: 'Campaigns', letter: 'c', mesh: '3.6px', needs: ['sends'] },
  { path: '/ledger', name: 'Ledger', letter: 'l', needs: ['ledger'], low: true },
  { path: '/settings', name: 'Settings', letter: 'e', needs: ['definitions'], low: true },
];

/** The places that are open to whoever is signed in. */
export const placesFor = (session: SessionView): readonly Place[] =>
  PLACES.filter(({ needs }) => needs.every((name) => mayCall(session, name)));

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
