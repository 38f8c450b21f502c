/** Who may import whom: the shape of docs/architecture.md, checked. */
module.exports = {
  forbidden: [
    {
      name: 'core-is-pure',
      comment: 'The calculation imports nothing but itself, Zod, and, for what-if, matrices and chance.',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { pathNot: ['^core/', '^node_modules/zod/', '^(node_modules/)?(ml-matrix|pure-rand)/'] },
    },
    {
      name: 'web-knows-messages-alone',
      comment:
        'The interface knows the server by its messages (types and schemas) and the words of its kinds, never by its inside.',
      severity: 'error',
      from: { path: '^web/' },
      to: {
        path: '^server/',
        pathNot: '([mM]essages|states|Kinds|Intervals)\\.ts$',
        dependencyTypesNot: ['type-only'],
      },
    },
    {
      name: 'stand-ins-stand-alone',
      severity: 'error',
      from: { path: '^standins/' },
      to: { path: '^(server|core|web|command)/' },
    },
    {
      name: 'server-knows-no-interface',
      severity: 'error',
      from: { path: '^server/', pathNot: '\\.test\\.ts$' },
      to: { path: '^(web|standins|command|testing|e2e)/' },
    },
    {
      name: 'core-is-read-upwards',
      comment: 'What terms, prices and the schedule share stands in core/agreed/, below all of them.',
      severity: 'error',
      from: { path: '^core/(agreed|dates|money|pricing|schedule|settlement)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^core/', pathNot: '^core/(agreed|dates|money|pricing|schedule|settlement)/' },
    },
    {
      name: 'agreed-knows-no-arithmetic',
      severity: 'error',
      from: { path: '^core/(agreed|pricing|schedule)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^core/settlement/' },
    },
    {
      name: 'one-way-in',
      comment: 'Subscriptions begin by accepting a reckoning, whoever asks for it.',
      severity: 'error',
      from: { path: '^server/', pathNot: '^server/(reckonings/accept|subscriptions/enrol)\\.ts$' },
      to: { path: '^server/subscriptions/enrol(\\.sql)?\\.ts$' },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: { extensions: ['.ts', '.tsx', '.js', '.json'] },
  },
};
