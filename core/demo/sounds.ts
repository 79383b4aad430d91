import { addAt, type Canvas, DEMO_SECONDS, newCanvas } from './canvas.ts';
import { gameSound } from './game.ts';
import { DEMO_MEDIA } from './parts.ts';
import { recordSound } from './records.ts';
import { bellSound, clipSound, handheldSound, humSound, pingSound } from './signals.ts';

/** The demo's synthesised sounds: the file that each goes into, and how to make it. The voices are shipped. */
export const DEMO_SOUNDS: { file: string; name: string; make: () => Canvas }[] = [
  { file: DEMO_MEDIA.game, name: 'Lock & Paddle (demo)', make: gameSound },
  { file: DEMO_MEDIA.reedbox, name: 'Reedbox record (demo)', make: recordSound },
  { file: DEMO_MEDIA.bellbuoy, name: 'Bellbuoy (demo)', make: bellSound },
  { file: DEMO_MEDIA.quillpage, name: 'Quillpage clip (demo)', make: clipSound },
  { file: DEMO_MEDIA.minnow, name: 'Minnow on the line input (demo)', make: handheldSound },
  { file: DEMO_MEDIA.pings, name: 'Boathouse pings (demo)', make: pingSound },
];

/** A voice of the demo on a line that hums: what is added to which shipped voice, and into which file both go. */
export const DEMO_HUMMING = {
  file: DEMO_MEDIA.hummingNarrator,
  name: 'Narrator, with hum (demo)',
  voice: DEMO_MEDIA.narrator,
  make: (): Canvas => {
    const canvas = newCanvas();
    addAt(canvas, humSound(DEMO_SECONDS), 0, 0.2);
    return canvas;
  },
};

/** The demo's voices, shipped as FLAC. */
export const DEMO_VOICES: { file: string; name: string }[] = [
  { file: DEMO_MEDIA.narrator, name: 'Narrator (demo)' },
  { file: DEMO_MEDIA.bosun, name: 'Bosun (demo)' },
  { file: DEMO_MEDIA.wick, name: 'Wick (demo)' },
];
