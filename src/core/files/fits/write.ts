import { finishedChannels, type FinishedImage } from '../image';
import { checksumText, sumOf } from './checksum';
import { BLOCK, CARD } from './header';

/** What goes into a FITS beside the samples. */
export interface FitsNotes {
  /** Cards of the file that the picture comes from, as they stood there. */
  readonly cards?: readonly string[];
  /** Lines of the picture's history, a line a step. */
  readonly history?: readonly string[];
  /** What 1 stands for in a file of floats. */
  readonly range?: number;
}

/** Cards that say how the data lies in the file, which is as it is written here. */
const OWN =
  /^(SIMPLE|BITPIX|NAXIS\d*|EXTEND|XTENSION|PCOUNT|GCOUNT|GROUPS|BSCALE|BZERO|BLANK|DATAMIN|DATAMAX|DATASUM|CHECKSUM|ROWORDER|TFIELDS|THEAP|TFORM\d+|TTYPE\d+|TUNIT\d+|EXTNAME|EXTVER|INHERIT|Z(IMAGE|SIMPLE|TENSION|EXTEND|BITPIX|NAXIS\d*|TILE\d+|CMPTYPE|NAME\d+|VAL\d+|QUANTIZ|DITHER0|BLANK|PCOUNT|GCOUNT|HECKSUM|DATASUM|BLOCKED|SCALE|ZERO|MASKCMP))\s*$/;

const inAscii = (text: string): string =>
  text
    .replace(/[−–]/g, '-')
    .replace(/[“”]/g, '"')
    .replace(/[‘’]/g, "'")
    .replace(/…/g, '...')
    .replace(/×/g, 'x')
    .replace(/²/g, '2')
    .normalize('NFKD')
    .replace(/[^\x20-\x7e]/g, '');

/** Values take twenty columns at least, as the standard's fixed format has it. */
const card = (key: string, value: string, comment = ''): string =>
  `${key.padEnd(8)}= ${value}${comment && ` / ${comment}`}`.padEnd(CARD).slice(0, CARD);
const numberCard = (key: string, value: number | boolean, comment = ''): string =>
  card(key, (typeof value === 'boolean' ? (value ? 'T' : 'F') : String(value)).padStart(20), comment);
const textCard = (key: string, text: string, comment = ''): string =>
  card(key, `'${text.padEnd(8)}'`.padEnd(20), comment);

const checksumCard = (text: string): string => textCard('CHECKSUM', text, 'brings the sum to zero');

/** Text in as many cards as it takes, broken between words. */
function historyCards(text: string): string[] {
  const cards: string[] = [];
  let line = '';
  const most = CARD - 'HISTORY '.length;
  for (const word of inAscii(text).split(/\s+/).filter(Boolean)) {
    if (line && line.length + 1 + word.length > most) {
      cards.push(line);
      line = '  ';
    }
    line += line.trim() ? ` ${word}` : word;
    while (line.length > most) {
      cards.push(line.slice(0, most));
      line = line.slice(most);
    }
  }
  return [...cards, line].filter((l) => l.trim()).map((l) => `HISTORY ${l}`.padEnd(CARD));
}

const CODED = 'COMMENT Values are coded as sRGB (IEC 61966-2-1), not proportional to light.'.padEnd(CARD);

/** The cards of a file that are true of what is written too; what goes on with a card stays or goes with it. */
function keptOf(cards: readonly string[]): string[] {
  let keeps = false;
  return cards.filter((text) => {
    if (text.startsWith('CONTINUE')) return keeps;
    keeps =
      text.startsWith('HIERARCH') ||
      (!OWN.test(text.slice(0, 8)) && text.trim() !== '' && text.trimEnd() !== CODED.trimEnd());
    return keeps;
  });
}

/**
 * FITS of one plane or three, of unsigned integers of 8 or 16 bits or floats of 32 by the samples' type, with checksums. The first row
 * stands at the bottom, as FITS has it. Alpha is left out.
 * @throws RangeError for more than memory holds
 */
export function writeFits(
  image: FinishedImage,
  { cards = [], history = [], range = 1 }: FitsNotes = {}
): Uint8Array {
  const { width, height, samples } = image;
  const channels = finishedChannels(image);
  const planes = image.grey ? 1 : 3;
  const bytesEach = samples.BYTES_PER_ELEMENT;
  const isFloat = samples instanceof Float32Array;
  const notes = image.encoding === 'linear' ? [] : [CODED];
  const header = [
    numberCard('SIMPLE', true, 'conforms to FITS'),
    numberCard('BITPIX', isFloat ? -32 : 8 * bytesEach),
    numberCard('NAXIS', planes === 1 ? 2 : 3),
    numberCard('NAXIS1', width),
    numberCard('NAXIS2', height),
    ...(planes === 1 ? [] : [numberCard('NAXIS3', planes, 'red, green, blue')]),
    ...(bytesEach === 2 ? [numberCard('BSCALE', 1), numberCard('BZERO', 32768, 'unsigned integers')] : []),
    textCard('ROWORDER', 'BOTTOM-UP', 'the first row is the lowest'),
    ...keptOf(cards).map((text) => text.padEnd(CARD).slice(0, CARD)),
    ...notes,
    ...history.flatMap(historyCards),
    textCard('DATASUM', '0'.repeat(10)),
    checksumCard('0'.repeat(16)),
    'END'.padEnd(CARD)
  ];
  const headerBytes = Math.ceil((header.length * CARD) / BLOCK) * BLOCK;
  const dataBytes = width * height * planes * bytesEach;
  const out = new Uint8Array(headerBytes + Math.ceil(dataBytes / BLOCK) * BLOCK);
  const view = new DataView(out.buffer, headerBytes);
  let at = 0;
  for (let c = 0; c < planes; c++) {
    for (let y = height - 1; y >= 0; y--) {
      let from = y * width * channels + c;
      for (let x = 0; x < width; x++, from += channels, at += bytesEach) {
        const v = samples[from];
        if (isFloat) view.setFloat32(at, v * range);
        else if (bytesEach === 2) view.setInt16(at, v - 32768);
        else view.setUint8(at, v);
      }
    }
  }
  const write = (): void => {
    out.fill(0x20, 0, headerBytes);
    header.forEach((text, i) => {
      for (let k = 0; k < CARD; k++) out[i * CARD + k] = text.charCodeAt(k);
    });
  };
  const sum = sumOf(out.subarray(headerBytes));
  header[header.length - 3] = textCard('DATASUM', String(sum), 'sum of the data unit');
  write();
  header[header.length - 2] = checksumCard(checksumText(sumOf(out.subarray(0, headerBytes), sum)));
  write();
  return out;
}
