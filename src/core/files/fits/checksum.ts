/** Checksums of FITS units (FITS Standard 4.0, appendix J; Seaman, Pence and Rots 1995): sums in ones' complement. */

/** @param bytes a multiple of four of them */
export function sumOf(bytes: Uint8Array, sum = 0): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let [high, low] = [sum >>> 16, sum & 0xffff];
  for (let i = 0; i < bytes.length; i += 4) {
    high += view.getUint16(i);
    low += view.getUint16(i + 2);
    // Long before they are no whole numbers any more.
    if ((i & 0xfffc) === 0) [high, low] = folded(high, low);
  }
  [high, low] = folded(high, low);
  return ((high << 16) | low) >>> 0;
}

function folded(high: number, low: number): [number, number] {
  let [h, l] = [high, low];
  while (h > 0xffff || l > 0xffff) {
    const [overHigh, overLow] = [Math.floor(h / 0x10000), Math.floor(l / 0x10000)];
    h = (h & 0xffff) + overLow;
    l = (l & 0xffff) + overHigh;
  }
  return [h, l];
}

/** Punctuation between figures and letters, which the text must not hold. */
const SPARED = [0x3a, 0x3b, 0x3c, 0x3d, 0x3e, 0x3f, 0x40, 0x5b, 0x5c, 0x5d, 0x5e, 0x5f, 0x60];

/** The sixteen letters whose sum brings a unit's to zero, by its sum with sixteen zeros in their place. */
export function checksumText(sum: number): string {
  const wanted = ~sum >>> 0;
  const letters = new Uint8Array(16);
  for (let i = 0; i < 4; i++) {
    const byte = (wanted >>> (24 - 8 * i)) & 0xff;
    const four = [0, 1, 2, 3].map(() => Math.floor(byte / 4) + 0x30);
    four[0] += byte % 4;
    // In pairs, one up and one down, so that the sum stays.
    while (four.some((v) => SPARED.includes(v))) {
      for (const j of [0, 2]) {
        if (!SPARED.includes(four[j]) && !SPARED.includes(four[j + 1])) continue;
        four[j]++;
        four[j + 1]--;
      }
    }
    four.forEach((v, j) => (letters[4 * j + i] = v));
  }
  // Turned by one place to the right, as the text begins in the second byte of a word.
  return String.fromCharCode(letters[15], ...letters.subarray(0, 15));
}
