/** The floors of the front end: each imports only those below it. */
const floors = ['app', 'pages', 'parts', 'base', 'api'];

module.exports = {
  forbidden: [
    ...floors.slice(1).map((floor, i) => ({
      name: `${floor}-imports-only-below`,
      severity: 'error',
      from: { path: `^src/${floor}/` },
      to: { path: `^src/(${floors.slice(0, i + 1).join('|')})/` },
    })),
    {
      name: 'pages-apart',
      comment: 'What two pages use belongs to parts.',
      severity: 'error',
      from: { path: '^src/pages/([^/]+)/' },
      to: { path: '^src/pages/', pathNot: '^src/pages/$1/' },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
  },
};
