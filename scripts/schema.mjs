/** `npm run schema`: writes docs/setup.schema.json from the code that reads the setup file. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { bundle } from './bundle.mjs';
import { root } from './ensure.mjs';

const { setupJsonSchema } = await import(await bundle('core/setup/jsonSchema.ts', 'schema'));
writeFileSync(join(root, 'docs/setup.schema.json'), `${JSON.stringify(setupJsonSchema(), null, 2)}\n`);
