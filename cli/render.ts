import { rename, rm } from 'node:fs/promises';
import { dirname, extname, resolve } from 'node:path';
import { conclusionSentences } from '../core/proof/conclusion.ts';
import { isContradiction, isLeak } from '../core/proof/proof.ts';
import { renderAndProve } from '../server/jobs/prove.ts';
import { refuseOver } from '../server/media/keepOriginals.ts';
import { figure, printJson, printLines, showProgress } from './print.ts';
import { withRunner } from './runner.ts';
import { findMedia, loadSetup, today } from './setupFile.ts';

/** Renders a take of a setup file, measures it, and prints tracks and proof. */
export async function render(
  path: string,
  options: { out: string; json?: boolean; mediaAnywhere?: boolean },
): Promise<void> {
  const setup = await loadSetup(path);
  if (extname(options.out).toLowerCase() !== '.mkv')
    throw new Error('--out must end in .mkv: a take is a Matroska file.');
  const mediaFiles = await findMedia(setup, dirname(resolve(path)), { anywhere: options.mediaAnywhere });
  await refuseOver(resolve(options.out), Object.values(mediaFiles));
  // It gets its name once it is whole: a take that is there already stays until then.
  const part = `${resolve(options.out)}.part`;
  const wanted = { setup, mediaFiles, takePath: part, today: today() };
  const rendered = await withRunner((runner, signal) =>
    renderAndProve(runner, {
      ...wanted,
      signal,
      onProgress: ({ phase, share }) => showProgress(`${phase}: ${Math.floor(100 * share)} %`),
    })
      .then(async (done) => {
        await rename(part, resolve(options.out));
        return done;
      })
      .finally(async () => {
        showProgress('');
        await rm(part, { force: true });
      }),
  );

  const tracks = rendered.tracks.map(({ trackId, outline: _, ...measures }, index) => ({
    number: index + 1,
    id: trackId,
    name: setup.tracks[index].name,
    ...measures,
  }));
  if (options.json) {
    const { durationS, proof, conclusion } = rendered;
    printJson({ out: options.out, durationS, tracks, proof, conclusion });
    return;
  }
  const nameOf = (id: string) => [...setup.sources, ...setup.tracks].find((one) => one.id === id)?.name ?? id;
  const lines = rendered.proof.filter((line) => isLeak(line) || isContradiction(line));
  printLines([
    `${options.out}: ${rendered.durationS.toFixed(1)} s, ${tracks.length} tracks`,
    ...tracks.map(
      (track) =>
        `  ${track.number}  ${track.name}: ${figure(track.integratedLufs, 'LUFS')}, true peak ${figure(track.truePeakDbtp, 'dBTP')}`,
    ),
    ...conclusionSentences(setup, rendered.conclusion),
    ...lines.map(
      (line) =>
        `  ${isLeak(line) ? 'LEAK' : 'differs'}  ${nameOf(line.sourceId)} in ${nameOf(line.trackId)}: planned ${figure(line.plannedDb, 'dB')}, measured ${figure(line.measuredDb, 'dB')}`,
    ),
  ]);
}
