/** Headers that give every response cross-origin isolation, without which there is no shared memory. */
export const isolationHeaders = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin'
};

/** What every response says beside that: it is what its type says, in no foreign frame, and tells nobody where one was. */
export const guardHeaders = {
  'X-Content-Type-Options': 'nosniff',
  'X-Frame-Options': 'DENY',
  'Referrer-Policy': 'no-referrer'
};
