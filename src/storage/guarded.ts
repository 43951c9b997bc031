import { StorageError } from './library';

/** @param kept what becomes of what was to be kept, as a sentence @throws StorageError in the place of what the browser says */
export async function guarded<T>(kept: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const full = (error as Error).name === 'QuotaExceededError';
    const why = full
      ? 'There is no room left in this browser’s storage.'
      : `The browser’s storage does not answer (${(error as Error).message}).`;
    throw new StorageError(`${why} ${kept}`, full, { cause: error });
  }
}
