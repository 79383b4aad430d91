import { basename, resolve } from 'node:path';
import { breakOffWords, doublingWords } from '../core/check/recording.ts';
import type { Relation } from '../core/measure/relations.ts';
import { figure, printJson, printLines } from './print.ts';
import { working } from './runner.ts';

/** Measures every audio track of a recording, and how they go together. Tracks count from one. */
export async function inspect(path: string, options: { json?: boolean }): Promise<void> {
  const { tracks, relations, proposals, breakOff } = await working(
    `Reading ${basename(path)}`,
    (runner, run) => runner.run('inspectTracks', { path: resolve(path) }, run),
  );
  if (options.json) {
    printJson({
      tracks: tracks.map(({ index, outline: _drawn, ...track }) => ({ number: index + 1, ...track })),
      relations: relations.map(counted),
      proposals: proposals.map((one) => ({ ...one, track: one.track + 1 })),
      breakOff,
    });
    return;
  }
  printLines([
    ...(breakOff ? [`${breakOffWords(breakOff, 'This recording')}.`] : []),
    ...(breakOff && breakOff.atS > 0
      ? ['Repair it (northfen repair) to get a whole file of what is there.']
      : []),
    ...tracks.map((track) => {
      const clipped = track.clippedPlaces > 0 ? `, clipped in ${track.clippedPlaces} places` : '';
      const hum = track.hum ? `, hums at ${track.hum.hz} Hz` : '';
      const silent = track.silentShare > 0 ? `, silent for ${Math.round(100 * track.silentShare)} %` : '';
      const twice = track.doubling ? `, ${doublingWords(track.doubling)}` : '';
      return `${track.index + 1}  ${track.name ?? 'unnamed'} (${track.codec}, ${track.sampleRate} Hz, ${track.sides}, ${track.durationS.toFixed(1)} s): ${figure(track.integratedLufs, 'LUFS')}, true peak ${figure(track.truePeakDbtp, 'dBTP')}, floor ${figure(track.noiseFloorDb, 'dBFS')}${silent}${clipped}${hum}${twice}`;
    }),
    ...relations.map(sentence),
    ...proposals
      .filter(({ role }) => role !== 'unknown')
      .map(
        ({ track, role, sureness, because }) =>
          `Track ${track + 1} carries ${role === 'silent' ? 'nothing' : role}, as it seems (${Math.round(100 * sureness)} %): ${because}.`,
      ),
  ]);
}

function counted(relation: Relation) {
  return relation.kind === 'equal'
    ? { ...relation, tracks: relation.tracks.map((track) => track + 1) }
    : {
        ...relation,
        track: relation.track + 1,
        of: relation.of.map((part) => ({ ...part, track: part.track + 1 })),
      };
}

function sentence(relation: Relation): string {
  if (relation.kind === 'equal')
    return `Tracks ${relation.tracks.map((track) => track + 1).join(' and ')} are the same (${figure(relation.gainDb, 'dB')}).`;
  return `Track ${relation.track + 1} is the sum of ${relation.of.map(({ track, gainDb }) => `track ${track + 1} at ${figure(gainDb, 'dB')}`).join(', ')}.`;
}
