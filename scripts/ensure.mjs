/**
 * What the commands need before they can start: packages, a build, system packages. Each step is skipped when its
 * result is there already and nothing that it depends on has changed. Uses Node's own modules only.
 */
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { delimiter, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { installPlan, nodeArgs } from './platform.mjs';

export const root = fileURLToPath(new URL('..', import.meta.url));
const cache = join(root, '.cache');

/**
 * Runs a program in the project's folder and returns how it ended. Programs are started through a package that knows how each
 * system finds and quotes them; before the packages are there, only Node itself is started, which needs none.
 */
export function start(command, args, options = {}) {
  return spawnerFor(command)(command, args, { cwd: root, stdio: 'inherit', ...options });
}

/** Runs a package's command. */
export function startCommand(name, args, options = {}) {
  return start(process.execPath, nodeArgs(name, args), options);
}

function spawnerFor(command) {
  if (command === process.execPath) return spawnSync;
  return createRequire(import.meta.url)('cross-spawn').sync;
}

/** Runs a program with its output shown; ends the process when it fails. */
export function run(command, args, { env = {}, quiet = false } = {}) {
  const result = start(command, args, {
    stdio: quiet ? ['ignore', 'ignore', 'inherit'] : 'inherit',
    env: { ...process.env, ...env },
  });
  if (result.status !== 0) {
    console.error(
      `\n“${command} ${args.join(' ')}” failed${result.error ? `: ${result.error.message}` : ''}.`,
    );
    process.exit(1);
  }
}

/** Installs the packages of package-lock.json when they are missing or others. */
export function ensurePackages() {
  once(
    'packages',
    fingerprint(['package-lock.json']),
    () => {
      console.log('Installing packages (the database is compiled: two to three minutes) …');
      runNpm(['install', '--no-save', '--no-audit', '--no-fund', '--loglevel=error']);
    },
    () => existsSync(join(root, 'node_modules/better-sqlite3/build/Release/better_sqlite3.node')),
  );
}

/** Runs npm, which is a script of Node's on every system. */
export function runNpm(args) {
  const script = npmScript();
  if (!script) fail('npm was not found. Start this with npm: “npm run demo”, “npm test” …');
  run(process.execPath, [script, ...args], { quiet: true });
}

/** Where npm's script is: the npm that started us, or the one that came with this Node. */
export function npmScript() {
  const started = process.env.npm_execpath;
  if (started && /\.c?js$/.test(started)) return started;
  const places = ['../../lib/node_modules/npm/bin/npm-cli.js', '../node_modules/npm/bin/npm-cli.js'];
  return places.map((place) => join(process.execPath, place)).find(existsSync);
}

function fail(sentence) {
  console.error(sentence);
  process.exit(1);
}

/** Builds the interface and the server when a source has changed. */
export function ensureBuild() {
  once(
    'build',
    fingerprint([
      'core',
      'server',
      'web',
      'cli',
      'package-lock.json',
      'vite.config.ts',
      'index.html',
      'scripts/build.mjs',
    ]),
    () => {
      console.log('Building …');
      run(process.execPath, ['scripts/build.mjs'], { quiet: true });
    },
    () => existsSync(join(root, 'dist/web/index.html')) && existsSync(join(root, 'dist/node/server.js')),
  );
}

/** Installs Debian packages that are missing, given the program that each brings; elsewhere says what is needed. */
export function ensureDebian(programs) {
  const missing = Object.entries(programs)
    .filter(([program]) => !isOnPath(program))
    .map(([, name]) => name);
  const plan = installPlan(process.platform, missing, process.getuid?.() === 0, isOnPath('apt-get'));
  if (plan.sentence) fail(plan.sentence);
  if (plan.commands.length > 0) console.log(`Installing from Debian: ${missing.join(', ')} …`);
  for (const [command, ...args] of plan.commands)
    run(command, args, { env: { DEBIAN_FRONTEND: 'noninteractive' }, quiet: true });
}

function isOnPath(program) {
  const endings = process.platform === 'win32' ? ['.exe', '.cmd', '.bat'] : [''];
  const folders = (process.env.PATH ?? '').split(delimiter);
  return folders.some((folder) => endings.some((ending) => existsSync(join(folder, program + ending))));
}

function once(step, print, action, isThere) {
  const stamp = join(cache, `${step}.stamp`);
  if (isThere() && existsSync(stamp) && readFileSync(stamp, 'utf8') === print) return;
  action();
  mkdirSync(cache, { recursive: true });
  writeFileSync(stamp, print);
}

function fingerprint(paths) {
  const hash = createHash('sha256').update(process.version);
  for (const path of paths) add(hash, path);
  return hash.digest('hex');
}

function add(hash, path) {
  const full = join(root, path);
  if (!existsSync(full)) return;
  if (statSync(full).isDirectory()) for (const name of readdirSync(full).sort()) add(hash, join(path, name));
  else hash.update(path).update(readFileSync(full));
}
