import { mkdir, rmdir } from 'node:fs/promises';
import { dirname, resolve } from 'node:path';

/** Makes a folder and writes into it. Where that fails, the folders that were made for it are taken away again, as far as they are empty. */
export async function inNewFolder<T>(folder: string, write: () => Promise<T>): Promise<T> {
  const made = await mkdir(folder, { recursive: true });
  try {
    return await write();
  } catch (error) {
    if (made !== undefined)
      for (let at = resolve(folder); at.length >= resolve(made).length; at = dirname(at))
        await rmdir(at).catch(() => {});
    throw error;
  }
}
