import { rename, rm } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import { Output, WavOutputFormat } from 'mediabunny';
import { type Container, canHold } from './containerCodecs.ts';
import { ContainerWriter } from './containerWriter.ts';
import { diskTarget } from './diskFile.ts';
import { refuseOver } from './keepOriginals.ts';
import { prepareMediaLibrary } from './library.ts';
import { MediaError } from './mediaError.ts';
import { LibraryWriter, type PacketWriter } from './packetWriter.ts';
import type { TrackCodec } from './trackCodec.ts';

/** What is to be put into a file: see {@link TrackCodec}. */
type Coded = Pick<TrackCodec, 'codec' | 'parameters'>;

/** A kind of file that can be written: whether it holds what is coded so, and what writes it. */
interface Kind {
  holds: (track: Coded) => boolean;
  write: (path: string) => PacketWriter;
}

const KINDS: Record<string, Kind> = {
  '.mkv': written('matroska'),
  '.mp4': written('mp4'),
  '.mov': written('mov'),
  '.wav': wav(new WavOutputFormat({ large: true })),
};

function written(container: Container): Kind {
  return {
    holds: ({ codec, parameters }) => canHold(container, codec, parameters !== null),
    write: (path) => new ContainerWriter(path, container),
  };
}

function wav(format: WavOutputFormat): Kind {
  const codecs: string[] = format.getSupportedCodecs();
  return {
    holds: ({ codec, parameters }) => parameters === null && codecs.includes(codec),
    write: (path) => new LibraryWriter(new Output({ format, target: diskTarget(path) })),
  };
}

/** Copying takes this share of the work where everything is moved once more, to put the index in front. */
const COPIED_BEFORE_INDEX = 0.9;

/** Tells whether a file of this name has an index of its packets, which can also say that sound begins before the start. */
export function isIndexed(path: string): boolean {
  return ['.mp4', '.mov'].includes(extname(path).toLowerCase());
}

/** A file that is being written: beside its name at first, and under it once it is whole. */
export interface WrittenFile {
  writer: PacketWriter;
  /** Tells whether it can hold what is coded so. */
  holds: Kind['holds'];
  /** The share of all work that is done once everything is copied: an index at the front is put there at the end. */
  copiedShare: number;
  /** Ends the file and gives it its name. @param onProgress told the share of all work that is done, from {@link copiedShare} on */
  finish(onProgress?: (share: number) => void): Promise<void>;
  /** Removes what there is of it; nothing after it was finished. */
  drop(): Promise<void>;
}

/**
 * Begins a file of the kind that its name says.
 * @param from a file that must not be written over
 * @throws {MediaError} when the name says no kind that can be written, or is that of the original
 */
export async function beginFile(outPath: string, from: string): Promise<WrittenFile> {
  prepareMediaLibrary();
  const kind = KINDS[extname(outPath).toLowerCase()];
  if (!kind)
    throw new MediaError(
      'unsupported',
      `${basename(outPath)} must end in ${Object.keys(KINDS).join(', ')}: that says how it is written.`,
    );
  await refuseOver(outPath, [from]);
  const part = `${outPath}.part`;
  const writer = kind.write(part);
  const copiedShare = isIndexed(outPath) ? COPIED_BEFORE_INDEX : 1;
  return {
    writer,
    holds: kind.holds,
    copiedShare,
    async finish(onProgress = () => {}) {
      await writer.finish((share) => onProgress(copiedShare + (1 - copiedShare) * share));
      await rename(part, outPath);
    },
    async drop() {
      await writer.drop();
      await rm(part, { force: true });
    },
  };
}

/** @throws {MediaError} where a file cannot hold a codec; it says which would */
export function refuseUnfit({ holds }: WrittenFile, tracks: Coded[], outPath: string): void {
  const unfit = tracks.filter((track) => !holds(track));
  if (unfit.length === 0) return;
  const others = Object.keys(KINDS).filter((ending) => tracks.every(KINDS[ending].holds));
  throw new MediaError(
    'unsupported',
    `${extname(outPath)} cannot hold ${[...new Set(unfit.map(({ codec }) => codec))].join(', ')} without coding it anew. ${others.length > 0 ? `Choose ${others.join(' or ')}, which can.` : 'No kind of file that can be written here holds all of its tracks: export it as MP4 or MKV first.'}`,
  );
}
