/** `npm run schema`: writes docs/setup.schema.json from the code that reads the setup file. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { root } from './ensure.mjs';

const outfile = join(root, '.cache/schema.mjs');
await build({
  absWorkingDir: root,
  entryPoints: ['core/setup/jsonSchema.ts'],
  outfile,
  bundle: true,
  packages: 'external',
  platform: 'node',
  format: 'esm',
  logLevel: 'warning',
});
const { setupJsonSchema } = await import(outfile);
writeFileSync(join(root, 'docs/setup.schema.json'), `${JSON.stringify(setupJsonSchema(), null, 2)}\n`);
