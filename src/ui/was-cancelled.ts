/** Whether what failed did so because a person, or what came instead, took it back. */
export const wasCancelled = (error: unknown): boolean => (error as Error).name === 'AbortError';
