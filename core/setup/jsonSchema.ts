import { z } from 'zod';
import { SetupSchema } from './schema.ts';

/** Returns the JSON Schema (draft 2020-12) of the setup file, made from the same schema that reads it. */
export function setupJsonSchema(): object {
  return { title: 'Northfen setup', ...z.toJSONSchema(SetupSchema, { io: 'input' }) };
}
