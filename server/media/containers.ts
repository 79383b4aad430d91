import { rename, rm } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import { Output, WavOutputFormat } from 'mediabunny';
import { CONTAINER_CODECS, type Container } from './codecParameters.ts';
import { ContainerWriter } from './containerWriter.ts';
import { diskTarget } from './diskFile.ts';
import { refuseOver } from './keepOriginals.ts';
import { prepareMediaLibrary } from './library.ts';
import { MediaError } from './mediaError.ts';
import { LibraryWriter, type PacketWriter } from './packetWriter.ts';

/** A kind of file that can be written: which codecs it holds, as the media library calls them, and what writes it. */
interface Kind {
  codecs: string[];
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
    codecs: Object.keys(CONTAINER_CODECS[container]),
    write: (path) => new ContainerWriter(path, container),
  };
}

function wav(format: WavOutputFormat): Kind {
  return {
    codecs: format.getSupportedCodecs(),
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
  /** What it can hold, as the media library calls it. */
  codecs: string[];
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
    codecs: kind.codecs,
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

/** @throws {MediaError} where a file cannot hold a codec */
export function refuseUnfit({ codecs }: WrittenFile, tracks: { codec: string }[], outPath: string): void {
  const unfit = tracks.filter(({ codec }) => !codecs.includes(codec));
  if (unfit.length > 0)
    throw new MediaError(
      'unsupported',
      `${extname(outPath)} cannot hold ${[...new Set(unfit.map(({ codec }) => codec))].join(', ')} without coding it anew. Choose .mkv, which can.`,
    );
}
