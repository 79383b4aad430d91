import { ApiError } from '../api/client.ts';
import { inLine } from '../api/line.ts';

const BYTES_A_FRAME = 8;

/** Reads frames of a recording: two planes of the asked length, silent after its end. */
export type StemReader = (
  fromFrame: number,
  frames: number,
) => Promise<[Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>]>;

/** Opens a recording on the server for reading passages of it; the server unpacks it the first time. */
export async function stemReader(path: string): Promise<StemReader> {
  const url = `/api/sounds/stem?${new URLSearchParams({ path })}`;
  const head = await inLine('stems', () => fetch(url, { method: 'HEAD' }));
  if (!head.ok)
    throw new ApiError(
      head.status,
      'unreadable',
      `The recording ${path} cannot be read. Choose another on Sources.`,
    );
  const length = Number(head.headers.get('Content-Length')) / BYTES_A_FRAME;
  return async (fromFrame, frames) => {
    const planes: [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>] = [
      new Float32Array(frames),
      new Float32Array(frames),
    ];
    const count = Math.max(0, Math.min(frames, length - fromFrame));
    if (count === 0) return planes;
    const answer = await fetch(url, {
      headers: {
        Range: `bytes=${fromFrame * BYTES_A_FRAME}-${(fromFrame + count) * BYTES_A_FRAME - 1}`,
      },
    });
    if (!answer.ok)
      throw new ApiError(answer.status, 'offline', 'Northfen does not answer. Is it still running?');
    const packed = new Float32Array(await answer.arrayBuffer());
    for (let i = 0; i < packed.length / 2; i++) {
      planes[0][i] = packed[2 * i];
      planes[1][i] = packed[2 * i + 1];
    }
    return planes;
  };
}
