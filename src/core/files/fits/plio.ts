import { damaged } from '../image';

/**
 * Unpacks one tile of a line list (section 10.4.3, IRAF's pixel list): 16-bit words of 4 bits of instruction and 12 of data, which
 * say how a line of steps goes on.
 */
export function unpackLineList(packed: Uint8Array, count: number): Int32Array {
  const words = Int16Array.from(
    { length: packed.length >> 1 },
    (_, i) => (packed[2 * i] << 8) | packed[2 * i + 1]
  );
  const out = new Int32Array(count);
  if (words.length < 3) throw damaged('one of its tiles ends too early');
  // An old header says its length at once, a newer one where its list begins and ends.
  const isOld = words[2] > 0;
  const end = isOld ? words[2] : (words[4] << 15) + words[3];
  const first = isOld ? 3 : words[1];
  if (end > words.length) throw damaged('one of its tiles ends too early');
  let [at, high] = [0, 1];
  const run = (length: number, value: number): void => {
    out.fill(value, at, Math.min(count, at + length));
    at += length;
  };
  for (let i = first; i < end && at < count; i++) {
    const data = words[i] & 0xfff;
    switch ((words[i] >> 12) & 0xf) {
      case 0:
        run(data, 0);
        break;
      case 4:
        run(data, high);
        break;
      case 5:
        if (data > 0) run(data - 1, 0);
        if (data > 0) run(1, high);
        break;
      case 1:
        high = (words[++i] << 12) + data;
        break;
      case 2:
        high += data;
        break;
      case 3:
        high -= data;
        break;
      case 6:
        high += data;
        run(1, high);
        break;
      case 7:
        high -= data;
        run(1, high);
        break;
      default:
        throw damaged('one of its tiles has an instruction that does not exist');
    }
  }
  return out;
}
