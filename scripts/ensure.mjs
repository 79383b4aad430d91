/**
 * What the commands need before they can start: packages, a build, system packages. Each step is skipped when its
 * result is there already and nothing that it depends on has changed. Uses Node's own modules only.
 */
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));
const cache = join(root, '.cache');

/** Runs a command in the project's folder with its output shown; ends the process when it fails. */
export function run(command, args, { env = {}, quiet = false } = {}) {
  const result = spawnSync(command, args, {
    cwd: root,
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
      run('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--loglevel=error'], { quiet: true });
    },
    () => existsSync(join(root, 'node_modules/better-sqlite3/build/Release/better_sqlite3.node')),
  );
  linkCommand();
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
      run('node', ['scripts/build.mjs'], { quiet: true });
    },
    () => existsSync(join(root, 'dist/web/index.html')) && existsSync(join(root, 'dist/node/server.js')),
  );
}

/** Installs Debian packages that are missing, given the program that each brings. */
export function ensureDebian(programs) {
  const missing = Object.entries(programs).filter(([program]) => spawnSync('which', [program]).status !== 0);
  if (missing.length === 0) return;
  const names = missing.map(([, name]) => name);
  console.log(`Installing from Debian: ${names.join(', ')} …`);
  const sudo = process.getuid?.() === 0 ? [] : ['sudo'];
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  const aptGet = (...args) => {
    const [command, ...rest] = [...sudo, 'apt-get', '-qq', ...args];
    run(command, rest, { env, quiet: true });
  };
  aptGet('update');
  aptGet('install', '-y', '--no-install-recommends', ...names);
}

/** `npx northfen` finds the command where packages put theirs. */
function linkCommand() {
  const link = join(root, 'node_modules/.bin/northfen');
  if (!existsSync(link)) symlinkSync('../../bin/northfen.mjs', link);
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
