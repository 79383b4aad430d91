/**
 * `npm test`: installs what is missing, then runs type check, lint, import rule, Jest and the browser tests. Its last
 * line sums both runners: `N passed, N failed`. Words behind `--` go to Jest alone (`npm test -- loudness`).
 */
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild, ensureDebian, ensurePackages, root, startCommand } from './ensure.mjs';

const reports = join(root, '.cache/reports');
rmSync(reports, { recursive: true, force: true });
mkdirSync(reports, { recursive: true });

ensurePackages();
ensureDebian({ chromium: 'chromium', ffmpeg: 'ffmpeg' });

let failedChecks = 0;
check('type check', 'tsc', ['--noEmit', '-p', 'tsconfig.json']);
check('core without DOM or Node', 'tsc', ['--noEmit', '-p', 'core/tsconfig.json']);
check('lint', 'biome', ['check', '.']);
check('import rule', 'depcruise', [
  '--config',
  '.dependency-cruiser.cjs',
  'core',
  'server',
  'cli',
  'web',
  'e2e',
  'scripts',
]);
ensureBuild();

const filter = process.argv.slice(2);
const unit = counted(
  'unit tests',
  'jest',
  ['--json', `--outputFile=${join(reports, 'jest.json')}`, ...filter],
  'jest.json',
  ({ numPassedTests, numFailedTests, numRuntimeErrorTestSuites }) => ({
    passed: numPassedTests,
    failed: numFailedTests + numRuntimeErrorTestSuites,
  }),
);
const browser =
  filter.length > 0
    ? { passed: 0, failed: 0 }
    : counted(
        'browser tests',
        'playwright',
        ['test', '--config', 'e2e/playwright.config.ts'],
        'playwright.json',
        ({ stats, suites }) => ({
          passed: stats.expected + stats.flaky,
          failed: stats.unexpected,
          flaky: suites.flatMap(flakyIn),
        }),
      );

for (const title of browser.flaky ?? []) console.log(`passed at the second try only: ${title}`);
const passed = unit.passed + browser.passed;
const failed = unit.failed + browser.failed + failedChecks;
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed > 0 || passed === 0 ? 1 : 0);

/** The titles of the tests of a suite that passed only when they were tried again. */
function flakyIn({ title, suites = [], specs = [] }) {
  const own = specs.filter(({ tests }) => tests.some(({ status }) => status === 'flaky'));
  return [...own.map((spec) => `${title}: ${spec.title}`), ...suites.flatMap(flakyIn)];
}

function check(name, command, args) {
  console.log(`\n— ${name}`);
  if (startCommand(command, args).status !== 0) failedChecks += 1;
}

/** Runs a test runner and reads what it counted; a runner that ends without a report counts as one failure. */
function counted(name, command, args, report, read) {
  console.log(`\n— ${name}`);
  const NODE_OPTIONS = `${process.env.NODE_OPTIONS ?? ''} --experimental-vm-modules --no-warnings`.trim();
  const env = { ...process.env, ...(report === 'jest.json' ? { NODE_OPTIONS } : {}) };
  const { status } = startCommand(command, args, { env });
  const file = join(reports, report);
  if (!existsSync(file)) return { passed: 0, failed: 1 };
  const counts = read(JSON.parse(readFileSync(file, 'utf8')));
  return status !== 0 && counts.failed === 0 ? { ...counts, failed: 1 } : counts;
}
