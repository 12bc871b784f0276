// npm test: installs what is missing, builds, then checks types, lint, units and the whole product in a browser.
// "npm test -- unit" runs one part: lint, unit or e2e; anything after it goes to the runner of that part.
// Ends with one line: N passed, N failed.
import { spawn, spawnSync } from 'node:child_process';
import { chmodSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuild, ensureNodeModules, ensurePackages, root, say } from './lib/system.mjs';
import { startPostgres } from './lib/postgres.mjs';

const [only, ...more] = process.argv.slice(2);
const wants = (part) => only === undefined || only === part;

ensurePackages(['ffmpeg', 'postgresql', 'chromium']);
ensureNodeModules();
ensureBuild();

const scratch = mkdtempSync(join(tmpdir(), 'euphonos-test-'));
// The database's user gets through: else its data would lie elsewhere, and stay there.
chmodSync(scratch, 0o711);
let database;
let passed = 0;
let failed = 0;
const count = (good, bad) => {
  passed += good;
  failed += bad;
};
const node = (file, args, env = {}) =>
  new Promise((resolve) => {
    const child = spawn(process.execPath, [join(root, file.startsWith('scripts/') ? '' : 'node_modules', file), ...args], {
      cwd: root,
      stdio: 'inherit',
      env: { ...process.env, ...env },
    });
    child.on('exit', (code) => resolve(code ?? 1));
  });
const read = (path) => {
  try {
    return JSON.parse(readFileSync(path, 'utf8'));
  } catch {
    return undefined;
  }
};

async function check(what, file, args) {
  say(`\n${what} …`);
  const code = await node(file, args);
  if (code !== 0) say(`${what}: not as it should be`);
  count(code === 0 ? 1 : 0, code === 0 ? 0 : 1);
}

async function unit() {
  say('\nUnits, and the server with a database …');
  const report = join(scratch, 'jest.json');
  const code = await node('jest/bin/jest.js', ['--forceExit', '--json', `--outputFile=${report}`, ...(only === 'unit' ? more : [])], {
    EUPHONOS_TEST_DATABASE_URL: database.url,
  });
  const { numPassedTests = 0, numFailedTests = 0, numRuntimeErrorTestSuites = 0 } = read(report) ?? {};
  count(numPassedTests, Math.max(numFailedTests + numRuntimeErrorTestSuites, code === 0 ? 0 : 1));
}

/** Playwright with these arguments. @returns how many passed, and how many did not */
async function browser(more) {
  const report = join(scratch, 'e2e.json');
  rmSync(report, { force: true });
  const code = await node('@playwright/test/cli.js', ['test', '--config', 'e2e/playwright.config.ts', ...more], {
    EUPHONOS_TEST_DATABASE_URL: database.url,
    EUPHONOS_TEST_SCRATCH: scratch,
    PLAYWRIGHT_JSON_OUTPUT_NAME: report,
  });
  const { expected = 0, unexpected = 0, flaky = 0 } = read(report)?.stats ?? {};
  return { passed: expected + flaky, flaky, failed: Math.max(unexpected, code === 0 ? 0 : 1) };
}

async function e2e() {
  say('\nThe product in a browser …');
  if (only === 'e2e') {
    const { passed, failed } = await browser(['--workers=1', ...more]);
    return count(passed, failed);
  }
  // Two at a time; what that has upset is tried once more by itself, as is what looks at times from the beginning. Both are told.
  const beside = await browser(['--project=beside', '--workers=2']);
  const again = beside.failed > 0 ? await browser(['--project=beside', '--workers=1', '--last-failed']) : { passed: 0, failed: 0 };
  const alone = await browser(['--project=alone', '--workers=1', '--retries=1']);
  const late = again.passed + alone.flaky;
  if (late > 0) say(`\n${late} of these passed at the second try only`);
  count(beside.passed + again.passed + alone.passed, again.failed + alone.failed);
}

const stop = async () => {
  await database?.stop();
  rmSync(scratch, { recursive: true, force: true });
};
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => void stop().then(() => process.exit(1)));

try {
  if (wants('lint')) {
    await check('Types', 'typescript/bin/tsc', ['-b']);
    await check('Licences and versions', 'scripts/third-party.mjs', ['--check']);
    await Promise.all([
      check('Lint', 'eslint/bin/eslint.js', ['.']),
      check('Form', 'prettier/bin/prettier.cjs', ['--check', '.', '--log-level', 'warn']).then(() =>
        check('Dependencies point one way', 'dependency-cruiser/bin/dependency-cruise.mjs', [
          '--config',
          '.dependency-cruiser.cjs',
          ...sourceFolders(),
        ]),
      ),
    ]);
  }
  if (wants('unit') || wants('e2e')) database = await startPostgres(join(scratch, 'postgres'), { durable: false });
  if (wants('unit')) await unit();
  if (wants('e2e')) await e2e();
} finally {
  await stop();
}
say(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);

function sourceFolders() {
  const { stdout } = spawnSync('sh', ['-c', 'ls -d packages/*/src apps/*/src'], { cwd: root, encoding: 'utf8' });
  return stdout.trim().split('\n');
}
