/** Rooms of the core, from the lowest to the highest. A room rests on those below it and on its own floor, never on one above. */
const FLOORS = [
  ['text'],
  ['numbers', 'time'],
  ['settings', 'intake', 'tags'],
  ['contacts'],
  ['conditions'],
  ['rules', 'scores', 'audiences', 'campaigns', 'forms', 'tables'],
  ['document'],
  ['ledger'],
  ['engine'],
  ['counting'],
];

const coreFloors = FLOORS.slice(0, -1).map((rooms, floor) => ({
  name: `core-${rooms.join('-')}-rest-on-nothing-above`,
  severity: 'error',
  from: { path: `^packages/core/src/(${rooms.join('|')})/`, pathNot: '\\.test\\.ts$' },
  to: {
    path: `^packages/core/src/(${FLOORS.slice(floor + 1)
      .flat()
      .join('|')})/`,
  },
}));

/** The walls of the house: what may import what. */
module.exports = {
  forbidden: [
    {
      name: 'core-is-pure',
      comment: 'The core has no framework and no I/O: zod and date-fns only.',
      severity: 'error',
      from: { path: '^packages/core/src', pathNot: '\\.test\\.ts$|/testing/' },
      to: { pathNot: '^packages/core/src|node_modules/(zod|date-fns|@date-fns/tz)/' },
    },
    {
      name: 'contracts-know-only-the-core',
      severity: 'error',
      from: { path: '^packages/contracts/src' },
      to: { pathNot: '^packages/(contracts|core)/|node_modules/zod/' },
    },
    { name: 'web-does-not-know-the-server', severity: 'error', from: { path: '^apps/web' }, to: { path: '^apps/server' } },
    { name: 'server-does-not-know-the-web', severity: 'error', from: { path: '^apps/server' }, to: { path: '^apps/web' } },
    ...coreFloors,
    {
      name: 'every-room-of-the-core-has-a-floor',
      severity: 'error',
      from: { path: '^packages/core/src/index\\.ts$' },
      to: { path: '^packages/core/src/[^/]+/', pathNot: `^packages/core/src/(${FLOORS.flat().join('|')})/` },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true, dependencyTypesNot: ['type-only'] } },
    {
      name: 'no-circles-of-types-in-the-core',
      severity: 'error',
      from: { path: '^packages/core/src' },
      to: { circular: true },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)dist/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.json'],
    },
  },
};
