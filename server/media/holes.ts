import { open } from 'node:fs/promises';
import { CLUSTER, EBML, type Element, elementAt, SEGMENT, wholeNumber, within } from './ebml.ts';
import { FileBytes } from './fileBytes.ts';

/** More names of elements (RFC 9559). */
const VOID = 0xec;
const CHECKSUM = 0xbf;
const INFO = 0x1549a966;
const TIME_SCALE = 0x2ad7b1;
const CLUSTER_TIME = 0xe7;
/** What a segment holds: clusters, info, seek head, tracks, cues, attachments, chapters, tags. */
const IN_SEGMENT = new Set([
  ...[EBML, SEGMENT, CLUSTER, INFO, VOID, CHECKSUM],
  ...[0x114d9b74, 0x1654ae6b, 0x1c53bb6b, 0x1941a469, 0x1043a770, 0x1254c367],
]);
/** What a cluster holds: its time, silent tracks, place, length of the one before, blocks. */
export const IN_CLUSTER = new Set([CLUSTER_TIME, VOID, CHECKSUM, 0x5854, 0xa7, 0xab, 0xa3, 0xa0, 0xaf]);

/** Nanoseconds that a time counts where the file does not say. */
const USUAL_SCALE = 1_000_000;
const NANOSECONDS = 1e9;
export const CLUSTER_NAME = Buffer.from([0x1f, 0x43, 0xb6, 0x75]);
const SEARCHED_BYTES = 1 << 16;

/** Where what a cluster holds begins and ends (bytes). */
interface Span {
  startsAt: number;
  endsAt: number;
}

/** A cluster of a file, or a place where there is none although there should be. */
type Part = ({ kind: 'cluster'; timeS: number } & Span) | { kind: 'damage' };

/**
 * Where a Matroska file (RFC 9559) has lost something in its middle. Readers go on behind such a hole, and what they say of it is the same as
 * of a recording that was paused: only the missing structure tells them apart.
 */
export class Holes {
  private readonly path: string;
  private parts: Promise<Part[]> | null = null;
  /** Whether the clusters that were looked through are whole, by where they begin: a track with many pauses asks for each again and again. */
  private readonly known = new Map<number, boolean>();

  constructor(path: string) {
    this.path = path;
  }

  /**
   * Tells whether something was lost between two moments at which there are packets (s, in the file's own time). Looked up where no packet lies for some
   * time: the heads of all clusters are read once then.
   */
  async isHoleBetween(fromS: number, toS: number): Promise<boolean> {
    this.parts ??= this.read(allParts);
    const parts = await this.parts;
    const times = parts.map((part) => (part.kind === 'cluster' ? part.timeS : null));
    // The clusters that may hold something of that time, up to the one that begins behind it.
    const first = times.findLastIndex((timeS) => timeS !== null && timeS <= fromS);
    const behind = times.findIndex((timeS, at) => at > first && timeS !== null && timeS > toS);
    const between = parts.slice(Math.max(0, first), behind < 0 ? parts.length : behind);
    if (between.some(({ kind }) => kind === 'damage')) return true;
    const clusters = between.flatMap((part) => (part.kind === 'cluster' ? [part] : []));
    const unknown = clusters.filter(({ startsAt }) => !this.known.has(startsAt));
    if (unknown.length > 0)
      await this.read(async (bytes, size) => {
        for (const one of unknown) this.known.set(one.startsAt, await isWhole(bytes, one, size));
      });
    return clusters.some(({ startsAt }) => this.known.get(startsAt) === false);
  }

  private async read<T>(look: (bytes: FileBytes, size: number) => Promise<T>): Promise<T> {
    const handle = await open(this.path);
    try {
      const { size } = await handle.stat();
      return await look(new FileBytes(handle, size), size);
    } finally {
      await handle.close();
    }
  }
}

/** The clusters of a file, and the places between them that are damaged. */
async function allParts(bytes: FileBytes, size: number): Promise<Part[]> {
  const parts: Part[] = [];
  let scale = USUAL_SCALE;
  for (let at = 0; at < size; ) {
    const element = await elementAt(bytes, at);
    if (!element || !IN_SEGMENT.has(element.id)) {
      parts.push({ kind: 'damage' });
      at = await nextCluster(bytes, at + 1, size);
      continue;
    }
    if (element.id === INFO) scale = (await numberIn(bytes, element, TIME_SCALE)) ?? scale;
    if (element.id === SEGMENT) {
      at = element.startsAt;
      continue;
    }
    const endsAt = element.length === null ? null : element.startsAt + element.length;
    if (element.id !== CLUSTER) {
      at = endsAt ?? (await nextCluster(bytes, element.startsAt, size));
      continue;
    }
    const time = await numberIn(bytes, element, CLUSTER_TIME);
    const end = endsAt ?? (await nextCluster(bytes, element.startsAt, size));
    parts.push(
      time === null
        ? { kind: 'damage' }
        : {
            ...{ kind: 'cluster', timeS: (time * scale) / NANOSECONDS },
            ...{ startsAt: element.startsAt, endsAt: end },
          },
    );
    at = end;
  }
  return parts;
}

/** Tells whether what a cluster holds follows one another up to its end. */
async function isWhole(bytes: FileBytes, { startsAt, endsAt }: Span, size: number): Promise<boolean> {
  let at = startsAt;
  while (at < endsAt && at < size) {
    const element = await elementAt(bytes, at);
    // A cluster that does not say how long it is ends where other parts begin.
    if (element && IN_SEGMENT.has(element.id) && !IN_CLUSTER.has(element.id)) return true;
    if (!element || !IN_CLUSTER.has(element.id) || element.length === null) return false;
    at = element.startsAt + element.length;
  }
  return at === endsAt || at >= size;
}

/** A whole number in an element, by its name; null where it is not there. */
async function numberIn(bytes: FileBytes, parent: Element, id: number): Promise<number | null> {
  for await (const element of within(bytes, parent)) {
    if (element.id === id) return element.length === null ? null : wholeNumber(bytes, element);
    // What is looked for comes before the blocks.
    if (parent.id === CLUSTER && !IN_CLUSTER.has(element.id)) return null;
  }
  return null;
}

/** Where the next cluster begins; the end of the file where there is none. */
async function nextCluster(bytes: FileBytes, from: number, size: number): Promise<number> {
  for (let at = from; at < size; at += SEARCHED_BYTES) {
    const piece = await bytes.at(at, SEARCHED_BYTES + CLUSTER_NAME.length - 1);
    for (let found = piece.indexOf(CLUSTER_NAME); found >= 0; found = piece.indexOf(CLUSTER_NAME, found + 1))
      if (await isCluster(bytes, at + found)) return at + found;
  }
  return size;
}

/** Tells whether a cluster begins somewhere: picture and sound may hold its name by chance. */
export async function isCluster(bytes: FileBytes, at: number): Promise<boolean> {
  const element = await elementAt(bytes, at);
  return element?.id === CLUSTER && (await numberIn(bytes, element, CLUSTER_TIME)) !== null;
}
