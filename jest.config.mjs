/** Unit tests of every package and application; the real interface is tested in e2e/. */
export default {
  testMatch: ['<rootDir>/{packages,apps}/**/src/**/*.test.{ts,tsx}', '<rootDir>/bench/*.test.ts'],
  transform: {
    '^.+\\.(t|j|mj)sx?$': [
      '<rootDir>/scripts/jest-transform.cjs',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true, decorators: true },
          transform: { legacyDecorator: true, decoratorMetadata: true, react: { runtime: 'automatic' } },
        },
        module: { type: 'commonjs' },
      },
    ],
  },
  transformIgnorePatterns: ['/node_modules/(?!(@nestjs|react-hotkeys-hook|comlink|uuid|@shiguredo|pg-boss|serialize-error|non-error)/)'],
  moduleNameMapper: {
    '^@euphonos/(dsp|engine|contracts|media|second-opinion)$': '<rootDir>/packages/$1/src/index.ts',
    // Its package.json names an entry for import alone.
    '^@shiguredo/rnnoise-wasm$': '<rootDir>/node_modules/@shiguredo/rnnoise-wasm/dist/rnnoise.js',
    '^(\\.{1,2}/.*)\\.js$': '$1',
    '(\\.css|\\?url|\\?worker&url)$': '<rootDir>/scripts/empty-module.cjs',
  },
  // For a machine that is many times slower, or whose cores are given to others: what holds does not wait any longer for it.
  testTimeout: 300_000,
  maxWorkers: 2,
};
