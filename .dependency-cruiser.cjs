/** The house has floors: dsp ← engine ← contracts, media ← server, web, cli. Nothing looks up. */
const floor = (name, path, forbidden, comment) => ({ name, comment, severity: 'error', from: { path }, to: { path: forbidden } });

module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    floor(
      'dsp-is-the-ground',
      '^packages/dsp/src',
      '^(packages/(engine|contracts|media|second-opinion)|apps)/',
      'Signal processing knows nothing above it.',
    ),
    floor(
      'engine-on-dsp',
      '^packages/engine/src',
      '^(packages/(contracts|media|second-opinion)|apps)/',
      'The document and the mixer know dsp only.',
    ),
    floor(
      'second-opinion-on-dsp',
      '^packages/second-opinion/src',
      '^(packages/(engine|contracts|media)|apps)/',
      'A network from elsewhere is handed to dsp, which does not know it.',
    ),
    floor('contracts-on-engine', '^packages/contracts/src', '^(packages/media|apps)/', 'What travels knows neither end.'),
    floor('media-on-engine', '^packages/media/src', '^(packages/contracts|apps)/', 'Files and ffmpeg serve server and command line alike.'),
    floor('apps-apart-server', '^apps/server', '^apps/(web|cli)/', 'Applications do not import each other.'),
    floor('apps-apart-web', '^apps/web', '^(apps/(server|cli)|packages/media)/', 'The page runs in a browser.'),
    floor('apps-apart-cli', '^apps/cli', '^apps/(server|web)/', 'Applications do not import each other.'),
    {
      name: 'no-platform-in-the-core',
      severity: 'error',
      comment: 'dsp and engine run in browser, worklet and Node alike.',
      from: { path: '^packages/(dsp|engine|contracts)/src', pathNot: '(\\.test\\.ts$|/testing/)' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'dsp-has-no-dependencies',
      severity: 'error',
      from: { path: '^packages/dsp/src', pathNot: '(\\.test\\.ts$|/testing/)' },
      to: { dependencyTypes: ['npm'] },
    },
    {
      name: 'canvas-in-drawing',
      severity: 'error',
      from: { path: '^apps/web/src/(api|store|audio)' },
      to: { path: '^apps/web/src/(drawing|views|components)' },
    },
  ],
  options: {
    doNotFollow: { path: '(node_modules|/dist/)' },
    tsConfig: { fileName: 'tsconfig.base.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'default'] },
  },
};
