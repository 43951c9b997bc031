/** Bytes as characters of Latin 1: names of parts and marks in files. */
export const latin = (bytes: Uint8Array): string => String.fromCharCode(...bytes);
