import { createHash } from 'node:crypto';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Sound } from '../../core/engine/arrivingSounds.ts';
import { packCovariances } from '../../core/measure/covariance.ts';
import type { Media } from '../../core/records.ts';
import type { TaskRunner } from '../jobs/runner.ts';
import type { SourceFile } from './covariances.ts';
import { once } from './once.ts';

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

  constructor(dataDir: string, runner: TaskRunner) {
    this.folder = join(dataDir, 'kept');
    this.dataDir = dataDir;
    this.runner = runner;
  }

  /** A recording as raw stereo frames. */
  async stem(media: Media): Promise<string> {
    const name = nameOf(['stem', identityOf(media)], '.f32');
    await once(join(this.folder, name), (path) =>
      this.runner.run('unpack', { mediaFile: this.fileOf(media), path }),
    );
    return name;
  }

  /** The covariances of sounds of recordings, as `packCovariances` writes them. */
  async covariances(sources: SourceMedia[], sounds: Sound[]): Promise<string> {
    const key = sources.map(({ media, ...source }) => [identityOf(media), source]);
    const name = nameOf(['covariances', key, sounds], '.cov');
    await once(join(this.folder, name), async (path) => {
      const files = sources.map(({ media, ...source }) => ({ ...source, file: this.fileOf(media) }));
      const found = await this.runner.run('covariances', { sources: files, sounds });
      await writeFile(path, packCovariances(found));
    });
    return name;
  }

  private fileOf({ file }: Media): string {
    return join(this.dataDir, 'media', file);
  }
}

function identityOf({ id, bytes }: Media): [string, number] {
  return [id, bytes];
}

/** The name of a kept file: made from what it is made of. */
function nameOf(parts: unknown, extension: string): string {
  return `${createHash('sha256').update(JSON.stringify(parts)).digest('hex').slice(0, 24)}${extension}`;
}
