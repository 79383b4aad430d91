/** `npm run third-party`: writes THIRD-PARTY.md from what is installed: everything that ships, with its licence. */
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const FILE = join(root, 'THIRD-PARTY.md');

/** What packages bring with them that has a licence of its own; a package of this list must be installed. */
const WITHIN = [
  [
    'node-av',
    'FFmpeg (libavcodec, libavutil, libswresample …), as a ready-built library',
    'LGPL-2.1-or-later, parts GPL-2.0-or-later',
  ],
  ['better-sqlite3', 'SQLite', 'public domain'],
  ['@echogarden/rnnoise-wasm', 'RNNoise, with its trained network', 'BSD-3-Clause'],
  ['@echogarden/pffft-wasm', 'PFFFT', 'BSD-like (FFTPACK)'],
  ['@fontsource-variable/source-sans-3', 'Source Sans 3, a typeface', 'OFL-1.1'],
  ['@fontsource-variable/vollkorn', 'Vollkorn, a typeface', 'OFL-1.1'],
];

/** Packages that are installed only on some systems are left out: what they bring stands with the package that wants them. */
function dependenciesOf({ dependencies = {}, peerDependencies = {}, peerDependenciesMeta = {} }) {
  const peers = Object.keys(peerDependencies).filter((name) => !peerDependenciesMeta[name]?.optional);
  return [...Object.keys(dependencies), ...peers];
}

/** Finds a package as Node does: beside the one that wants it, or in a folder above. */
function find(name, from) {
  for (let folder = from; ; folder = dirname(folder)) {
    const file = join(folder, 'node_modules', name, 'package.json');
    if (existsSync(file)) return file;
    if (folder === dirname(folder) || folder === dirname(root)) return null;
  }
}

function licenceOf({ license, licenses }) {
  if (typeof license === 'string') return license;
  if (license?.type) return license.type;
  return Array.isArray(licenses) ? licenses.map((one) => one.type ?? one).join(' or ') : 'see its own files';
}

/** The packages that are built into the interface: those that its sources import. */
function bundledPackages() {
  const names = new Set();
  const read = (folder) => {
    for (const entry of readdirSync(folder, { withFileTypes: true })) {
      const path = join(folder, entry.name);
      if (entry.isDirectory()) read(path);
      else if (/\.(tsx?|css)$/.test(entry.name) && !/\.test\./.test(entry.name))
        for (const [, name] of readFileSync(path, 'utf8').matchAll(
          /(?:from |import |import\(|url\()["']((?:@[\w-]+\/)?[a-z][\w.-]*)/g,
        ))
          names.add(name);
    }
  };
  read(join(root, 'web'));
  return [...names].filter(
    (name) => existsSync(join(root, 'node_modules', name, 'package.json')) && name !== 'tailwindcss',
  );
}

/** Returns every package that ships, by name and version. */
export function shippedPackages() {
  const found = new Map();
  const visit = (file) => {
    const manifest = JSON.parse(readFileSync(file, 'utf8'));
    const key = `${manifest.name} ${manifest.version}`;
    if (found.has(key)) return;
    found.set(key, { name: manifest.name, version: manifest.version, licence: licenceOf(manifest) });
    for (const name of dependenciesOf(manifest)) {
      const next = find(name, dirname(file));
      if (next) visit(next);
    }
  };
  const own = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
  for (const name of new Set([...Object.keys(own.dependencies), ...bundledPackages()])) {
    const file = find(name, root);
    if (!file) throw new Error(`${name} is not installed`);
    visit(file);
  }
  return [...found.values()].sort((a, b) =>
    a.name < b.name ? -1 : a.name > b.name ? 1 : a.version < b.version ? -1 : 1,
  );
}

/** Returns the text of THIRD-PARTY.md. */
export function thirdPartyText() {
  const packages = shippedPackages();
  for (const [name] of WITHIN)
    if (!packages.some((one) => one.name === name)) throw new Error(`${name} does not ship any more`);
  return `# What ships with Northfen, and under which licence

Made by \`npm run third-party\` from what is installed; a test keeps it true. The texts of the licences lie in the folders of the
packages below \`node_modules\`.

## Within packages

| in | what | licence |
| --- | --- | --- |
${WITHIN.map((row) => `| ${row.join(' | ')} |`).join('\n')}

The voices in \`assets/voices\` were made for Northfen with espeak-ng, which does not ship. All other sounds of the demo are
computed by Northfen.

## Packages

| package | version | licence |
| --- | --- | --- |
${packages.map(({ name, version, licence }) => `| ${name} | ${version} | ${licence} |`).join('\n')}
`;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) writeFileSync(FILE, thirdPartyText());
