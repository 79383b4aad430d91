import { open } from 'node:fs/promises';
import { EBML, type Element, elementAt, SEGMENT } from './ebml.ts';
import { FileBytes } from './fileBytes.ts';
import type { ReadAs } from './fileSource.ts';
import { CLUSTER_NAME, IN_CLUSTER, isCluster } from './holes.ts';

/** The last cluster is looked for in so much at the end: few hold more than five megabytes. */
const SEARCHED_BYTES = 1 << 26;
const PIECE_BYTES = 1 << 17;

/**
 * Tells how a Matroska file (RFC 9559) is read up to its last whole block, where it breaks off within a cluster: readers take a cluster as a
 * whole, so that seconds of all tracks would be lost with it. It is read as if the cluster ended behind that block.
 * @returns null where it does not break off so
 */
export async function readAsCut(path: string): Promise<ReadAs | null> {
  const handle = await open(path);
  try {
    const { size } = await handle.stat();
    const bytes = new FileBytes(handle, size);
    if ((await elementAt(bytes, 0))?.id !== EBML) return null;
    const cut = await cutCluster(bytes, size);
    if (!cut || cut.cluster.length === null) return null;
    const { at, cluster } = cut;
    const endsAt = await endOfBlocks(bytes, cluster.startsAt, size);
    const lengthAt = at + CLUSTER_NAME.length;
    const length = lengthIn(cluster.startsAt - lengthAt, endsAt - cluster.startsAt);
    return [{ from: 0, to: lengthAt }, { bytes: length }, { from: cluster.startsAt, to: endsAt }];
  } finally {
    await handle.close();
  }
}

/** The cluster in which a file breaks off, and where its head begins; null where there is none. */
async function cutCluster(bytes: FileBytes, size: number): Promise<{ at: number; cluster: Element } | null> {
  const header = await elementAt(bytes, 0);
  const segment = header && (await elementAt(bytes, header.startsAt + (header.length ?? 0)));
  if (segment?.id !== SEGMENT) return null;
  // One that says that it ends with the file was written to its end.
  if (segment.length !== null && segment.startsAt + segment.length === size) return null;
  const at = await lastCluster(bytes, size);
  const cluster = at === null ? null : await elementAt(bytes, at);
  if (at === null || !cluster || cluster.length === null) return null;
  return cluster.startsAt + cluster.length > size ? { at, cluster } : null;
}

/** Where the head of the last cluster begins; null where none is found near the end. */
async function lastCluster(bytes: FileBytes, size: number): Promise<number | null> {
  for (let from = size; from > 0 && from > size - SEARCHED_BYTES; ) {
    const to = from;
    from = Math.max(0, to - PIECE_BYTES);
    const piece = await bytes.at(from, to - from + CLUSTER_NAME.length - 1);
    for (
      let found = piece.lastIndexOf(CLUSTER_NAME);
      found >= 0;
      found = found > 0 ? piece.lastIndexOf(CLUSTER_NAME, found - 1) : -1
    )
      if (await isCluster(bytes, from + found)) return from + found;
  }
  return null;
}

/** Where the last whole element of a cluster ends. */
async function endOfBlocks(bytes: FileBytes, startsAt: number, size: number): Promise<number> {
  for (let at = startsAt; ; ) {
    const element = await elementAt(bytes, at);
    if (!element || element.length === null || !IN_CLUSTER.has(element.id)) return at;
    const end = element.startsAt + element.length;
    if (end > size) return at;
    at = end;
  }
}

/** A length in so many bytes, as EBML has them (RFC 8794): the first bits say how many. */
function lengthIn(count: number, value: number): Uint8Array {
  const bytes = new Uint8Array(count);
  let left = value;
  for (let i = count - 1; i >= 0; i--) {
    bytes[i] = left % 256;
    left = Math.floor(left / 256);
  }
  bytes[0] |= 0x80 >> (count - 1);
  return bytes;
}
