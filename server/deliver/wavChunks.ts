import { open } from 'node:fs/promises';
import type { Mark } from '../../core/deliver/records.ts';
import { writeWhole } from '../media/diskFile.ts';
import { writeFileSize } from './wavFile.ts';

/** A mark as it stands in a file: a moment and its name. */
export type FileMark = Pick<Mark, 'atS' | 'name'>;

/** What is told of a WAV beside its sound. */
export interface WavNotes {
  description: string;
  /** When the sound begins (frames since midnight, as editors place it). */
  timeReference: number;
  sampleRate: number;
  marks: FileMark[];
}

const LARGE = 0xff_ff_ff_ff;
const BEXT_BYTES = 602;

/**
 * Adds to a WAV (or RF64) what editors read beside its sound: when it begins (a `bext` chunk, EBU Tech 3285) and marks (`cue ` and `adtl`
 * chunks, of the RIFF specification of 1991). They stand after the sound, which stays as it is.
 */
export async function addWavNotes(path: string, notes: WavNotes): Promise<void> {
  const handle = await open(path, 'r+');
  try {
    const { size } = await handle.stat();
    const chunks = Buffer.concat([
      Buffer.alloc(size % 2),
      chunk('bext', bext(notes)),
      ...(notes.marks.length > 0 ? [chunk('cue ', cues(notes)), chunk('LIST', labels(notes))] : []),
    ]);
    await writeWhole(handle, chunks, size);
    await writeFileSize(handle, size + chunks.length);
  } finally {
    await handle.close();
  }
}

function chunk(name: string, content: Buffer): Buffer {
  const head = Buffer.alloc(8);
  head.write(name, 'latin1');
  head.writeUInt32LE(content.length, 4);
  return Buffer.concat([head, content, Buffer.alloc(content.length % 2)]);
}

function bext({ description, timeReference }: WavNotes): Buffer {
  const bytes = Buffer.alloc(BEXT_BYTES);
  bytes.write(plain(description).slice(0, 256), 0, 'latin1');
  bytes.write('Northfen', 256, 'latin1');
  bytes.writeBigUInt64LE(BigInt(Math.max(0, Math.round(timeReference))), 338);
  bytes.writeUInt16LE(1, 346);
  return bytes;
}

function cues({ marks, sampleRate }: WavNotes): Buffer {
  const bytes = Buffer.alloc(4 + 24 * marks.length);
  bytes.writeUInt32LE(marks.length, 0);
  for (const [at, { atS }] of marks.entries()) {
    const frame = Math.min(LARGE, Math.max(0, Math.round(atS * sampleRate)));
    const from = 4 + 24 * at;
    bytes.writeUInt32LE(at + 1, from);
    bytes.writeUInt32LE(frame, from + 4);
    bytes.write('data', from + 8, 'latin1');
    bytes.writeUInt32LE(frame, from + 20);
  }
  return bytes;
}

function labels({ marks }: WavNotes): Buffer {
  const each = marks.map(({ name }, at) => {
    const number = Buffer.alloc(4);
    number.writeUInt32LE(at + 1);
    return chunk('labl', Buffer.concat([number, Buffer.from(`${name}\0`, 'utf8')]));
  });
  return Buffer.concat([Buffer.from('adtl', 'latin1'), ...each]);
}

/** The text chunk of a broadcast WAV is ASCII. */
function plain(text: string): string {
  return text.replace(/[^\x20-\x7e]/g, '?');
}
