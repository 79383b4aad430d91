/**
 * Loops over many floats, four at a time (WebAssembly SIMD). AssemblyScript: `npm run kernels` compiles this file, and
 * those that it takes from, into `../compiled.ts`. Arguments named `…At` are byte addresses of floats; counts are numbers of floats. Nothing here
 * allocates: whoever calls owns the memory.
 */

export { addCapped, addProducts, addScaled, dot, highest, mean, multiply, placeOfHighest, scale } from './floats';
export { compress, filterPair, interpolate, kWeight } from './filters';
export { addPair, dealPairs, packPairs, unpackPairs, wholePairs } from './pairs';
export { halfway, peaksBetween } from './peaks';
export { addFitSums, addLevelSums, colourIn, restOfPair } from './rescue';
export { crossWeighted, fitOfCode, inversePowers, turnBins, weightedPower } from './sounding';
export {
  addCrossSpectrum,
  bandPowers,
  crossEveryThird,
  fitGain,
  flatten,
  powersAndCross,
  strongestPower,
  toPhases,
} from './spectra';

/** Returns the address behind the tables that the loops need for themselves: whoever calls has the memory from there on. */
export function firstFree(): usize {
  return __heap_base;
}
