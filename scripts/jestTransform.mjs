/**
 * Compiles TypeScript for Jest, with the language's own globals as constants of each module: in Jest's sandbox
 * every use of a global is slow, which made the inner loops of what is tested several times slower than they are.
 */
import swc from '@swc/jest';

const globals = [
  'Array',
  'DataView',
  'Float32Array',
  'Float64Array',
  'Infinity',
  'Int32Array',
  'Map',
  'Math',
  'Number',
  'Object',
  'Set',
  'Uint8Array',
];

export default {
  createTransformer(options) {
    const { process, processAsync, getCacheKey, canInstrument } = swc.createTransformer(options);
    return {
      canInstrument,
      getCacheKey: (...given) => `${getCacheKey(...given)}-${globals.join()}`,
      process: (...given) => withGlobals(process(...given)),
      processAsync: async (...given) => withGlobals(await processAsync(...given)),
    };
  },
};

/** In front of the first line, so that no line changes its number. */
function withGlobals({ code, map }) {
  const used = globals.filter((name) => new RegExp(`\\b${name}\\b`).test(code));
  return { code: used.map((name) => `const ${name} = globalThis.${name};`).join('') + code, map };
}
