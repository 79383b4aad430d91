import type { Setup } from '../core/setup/schema.ts';

/**
 * What ffmpeg is told to mix the stems of a setup into its tracks, and to measure each: gains by `volume`, sums by `amix`. The tracks come out
 * as `[o0]`, `[o1]` and so on.
 * @param meter the filter that measures a track
 */
export function mixArguments(setup: Setup, paths: string[], meter: string): string[] {
  const tracks = setup.tracks.length;
  const split = paths.map(
    (_, i) => `[${i}:a]asplit=${tracks}${setup.tracks.map((_t, k) => `[s${i}t${k}]`).join('')}`,
  );
  const gains = setup.sends.map(
    ({ pickup, to, gainDb }) =>
      `[${pickup.replace('.pickup', '')}${to}]volume=${gainDb}dB[${pickup.replace('.pickup', '')}${to}g]`,
  );
  const mixes = setup.tracks.map(
    (_, k) =>
      `${paths.map((_p, i) => `[s${i}t${k}g]`).join('')}amix=inputs=${paths.length}:normalize=0,${meter}[o${k}]`,
  );
  return [
    ...['-hide_banner', '-nostats', '-y'],
    ...paths.flatMap((path) => ['-i', path]),
    ...['-filter_complex', [...split, ...gains, ...mixes].join(';')],
  ];
}

/** Each track by itself into nothing. */
export function intoNothing({ tracks }: Setup): string[] {
  return tracks.flatMap((_, k) => ['-map', `[o${k}]`, '-f', 'null', '-']);
}
