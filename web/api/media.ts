import { useQuery } from '@tanstack/react-query';
import { ApiError, request } from './client.ts';
import type { Media } from './types.ts';

export function useMedia() {
  return useQuery({ queryKey: ['media'], queryFn: () => request<Media[]>('/media') });
}

/** The path under which a setup names a recording. */
export function mediaPath(media: Media): string {
  return `media/${media.file}`;
}

/**
 * Uploads a recording. `fetch` cannot report how far an upload is, so this uses the older interface.
 * @param onProgress called with the share that is sent, 0 to 1
 * @throws {ApiError} when the server refuses the file
 */
export function uploadMedia(
  file: File,
  {
    allowCut = false,
    onProgress,
    signal,
  }: { allowCut?: boolean; onProgress?: (share: number) => void; signal?: AbortSignal } = {},
): Promise<Media> {
  return new Promise((resolve, reject) => {
    const upload = new XMLHttpRequest();
    const query = new URLSearchParams({ name: file.name, allowCut: allowCut ? '1' : '0' });
    upload.open('POST', `/api/media?${query}`);
    upload.responseType = 'json';
    upload.upload.onprogress = (event) => onProgress?.(event.total > 0 ? event.loaded / event.total : 0);
    upload.onload = () => {
      if (upload.status === 201) resolve(upload.response as Media);
      else {
        const error = (upload.response as { error?: { code: string; message: string } } | null)?.error;
        reject(
          new ApiError(
            upload.status,
            error?.code ?? 'unknown',
            error?.message ?? 'The upload failed. Try again.',
          ),
        );
      }
    };
    upload.onerror = () =>
      reject(
        new ApiError(
          0,
          'offline',
          'The upload broke off: Northfen does not answer. Nothing was changed; try again.',
        ),
      );
    upload.onabort = () => reject(new ApiError(0, 'cancelled', 'The upload was cancelled.'));
    signal?.addEventListener('abort', () => upload.abort());
    upload.send(file);
  });
}
