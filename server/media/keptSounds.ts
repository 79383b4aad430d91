import { createHash } from 'node:crypto';
import { access, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Sound } from '../../core/engine/arrivingSounds.ts';
import { packCovariances } from '../../core/measure/covariance.ts';
import type { Media } from '../../core/records.ts';
import type { Setup } from '../../core/setup/schema.ts';
import type { TaskRunner } from '../jobs/runner.ts';
import { type MediaStore, mediaPath } from '../store/media.ts';
import type { SourceFile } from './covariances.ts';
import { KEPT_EXTENSION } from './keptFrames.ts';
import { once } from './once.ts';

/** Longer recordings are not kept as raw frames before they are rehearsed with (s): ten minutes are 230 MB. */
const KEPT_S = 600;

/** A source with its recording. */
export type SourceMedia = Omit<SourceFile, 'file'> & { media: Media };

/**
 * What is worked out of recordings once and kept in the data folder, for rehearsing and balancing: raw frames, and how
 * recordings go together. Each call makes the file, if it is not there yet, and returns its name in {@link folder}.
 */
export class KeptSounds {
  readonly folder: string;
  private readonly dataDir: string;
  private readonly runner: TaskRunner;
  private keeping: Promise<unknown> = Promise.resolve();

  constructor(dataDir: string, runner: TaskRunner) {
    this.folder = join(dataDir, 'kept');
    this.dataDir = dataDir;
    this.runner = runner;
  }

  /** A recording as raw stereo frames. */
  async stem(media: Media, gone?: AbortSignal): Promise<string> {
    const name = this.stemName(media);
    const mediaFile = join(this.dataDir, 'media', media.file);
    await once(
      join(this.folder, name),
      (path, signal) => this.runner.run('unpack', { mediaFile, path }, { signal }),
      gone,
    );
    return name;
  }

  /** The file to read a recording from (absolute): raw frames where they are kept already, so that nothing is decoded again. */
  async fileOf(media: Media): Promise<string> {
    const kept = join(this.folder, this.stemName(media));
    const isKept = await access(kept).then(
      () => true,
      () => false,
    );
    return isKept ? kept : join(this.dataDir, 'media', media.file);
  }

  /** Keeps recordings as raw frames, one after the other, beside what else is to be done; not long ones: that takes much room. */
  private keepLater(recordings: Media[]): void {
    for (const media of recordings.filter(({ durationS }) => durationS <= KEPT_S))
      this.keeping = this.keeping.then(() => this.stem(media)).catch(() => {});
  }

  /** The file of each source's recording that is there, by source id. */
  async filesOf(setup: Setup, store: MediaStore): Promise<Record<string, string>> {
    const listed = new Map(store.list().map((media) => [mediaPath(media.file), media]));
    const files = setup.sources.map(async ({ id, media }): Promise<[string, string][]> => {
      const row = media && listed.get(media.path);
      return row ? [[id, await this.fileOf(row)]] : [];
    });
    return Object.fromEntries((await Promise.all(files)).flat());
  }

  /** The covariances of sounds of recordings, as `packCovariances` writes them. */
  async covariances(sources: SourceMedia[], sounds: Sound[], gone?: AbortSignal): Promise<string> {
    const key = sources.map(({ media, ...source }) => [identityOf(media), source]);
    const name = nameOf(['covariances', key, sounds], '.cov');
    const make = async (path: string, signal: AbortSignal) => {
      const files = await Promise.all(
        sources.map(async ({ media, ...source }) => ({ ...source, file: await this.fileOf(media) })),
      );
      const found = await this.runner.run('covariances', { sources: files, sounds }, { signal });
      await writeFile(path, packCovariances(found));
      this.keepLater(sources.map(({ media }) => media));
    };
    await once(join(this.folder, name), make, gone);
    return name;
  }

  private stemName(media: Media): string {
    return nameOf(['stem', identityOf(media)], KEPT_EXTENSION);
  }
}

function identityOf({ id, bytes }: Media): [string, number] {
  return [id, bytes];
}

/** The name of a kept file: made from what it is made of. */
function nameOf(parts: unknown, extension: string): string {
  return `${createHash('sha256').update(JSON.stringify(parts)).digest('hex').slice(0, 24)}${extension}`;
}
