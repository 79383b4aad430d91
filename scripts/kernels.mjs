/**
 * `npm run kernels`: compiles core/kernels/assembly to WebAssembly and writes it into core/kernels/compiled.ts, so that
 * it loads wherever the core runs. With `--check` it writes nothing and fails when that file is out of date.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import asc from 'assemblyscript/asc';
import { root } from './ensure.mjs';

const target = join(root, 'core/kernels/compiled.ts');
let binary;
const { error, stderr } = await asc.main(
  [
    'core/kernels/assembly/index.ts',
    ...['-O3', '--runtime', 'stub', '--importMemory', '--enable', 'simd', '--noAssert'],
    ...['--outFile', 'kernels.wasm'],
  ],
  {
    readFile: (name, base) => {
      try {
        return readFileSync(join(base, name), 'utf8');
      } catch {
        return null;
      }
    },
    writeFile: (_name, contents) => {
      binary = contents;
    },
  },
);
if (error) {
  console.error(stderr.toString());
  process.exit(1);
}
const BYTES_A_LINE = 24;
const lines = Array.from({ length: Math.ceil(binary.length / BYTES_A_LINE) }, (_, line) =>
  [...binary.slice(line * BYTES_A_LINE, (line + 1) * BYTES_A_LINE)].join(', '),
);
const text = `/** Compiled from assembly/index.ts by \`npm run kernels\`; not to be changed by hand. */
export const compiled = new Uint8Array([
${lines.map((line) => `  ${line},\n`).join('')}]);
`;
if (!process.argv.includes('--check')) writeFileSync(target, text);
else if (readFileSync(target, 'utf8') !== text) {
  console.error('core/kernels/compiled.ts is out of date: run `npm run kernels`.');
  process.exit(1);
}
