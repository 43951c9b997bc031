import { channels, readChannels, toReadout, type Channel, type Encoding } from '$core/colour';

const MINUS = '−';

/** A number as it is told on the screen: fixed digits, a true minus, no “−0”. */
export function told(value: number, digits: number, signed = false): string {
  if (Number.isNaN(value)) return '–';
  const text = Math.abs(value).toFixed(digits);
  if (Number(text) === 0) return text;
  return value < 0 ? MINUS + text : signed ? `+${text}` : text;
}

/** The same with no more decimals than it has, of `digits` at most. */
export function toldShort(value: number, digits = 2): string {
  const rounded = Math.round(value * 10 ** digits) / 10 ** digits;
  return told(
    rounded,
    Number.isInteger(rounded) ? 0 : Number.isInteger(rounded * 10) ? 1 : Math.min(digits, 2)
  );
}

const NUMBER = /^(\d+\.?\d*|\.\d+)/;

/** Reads a sum from its beginning; what is left of the text has not been read. Null where something is no number. */
class Sum {
  constructor(private left: string) {}

  all(): number | null {
    const value = this.terms();
    return this.left === '' ? value : null;
  }

  private takes(signs: string): string {
    const [sign = ''] = this.left;
    if (sign === '' || !signs.includes(sign)) return '';
    this.left = this.left.slice(1);
    return sign;
  }

  private terms(): number | null {
    let value = this.factors();
    for (let sign = this.takes('+-'); sign && value !== null; sign = this.takes('+-')) {
      const next = this.factors();
      value = next === null ? null : sign === '+' ? value + next : value - next;
    }
    return value;
  }

  private factors(): number | null {
    let value = this.one();
    for (let sign = this.takes('*/'); sign && value !== null; sign = this.takes('*/')) {
      const next = this.one();
      value = next === null ? null : sign === '*' ? value * next : value / next;
    }
    return value;
  }

  private one(): number | null {
    const negative = this.takes('-') !== '';
    if (this.takes('(')) {
      const inside = this.terms();
      return inside === null || !this.takes(')') ? null : negative ? -inside : inside;
    }
    const found = NUMBER.exec(this.left)?.[0];
    if (found === undefined) return null;
    this.left = this.left.slice(found.length);
    return negative ? -Number(found) : Number(found);
  }
}

/**
 * A typed number or a simple sum of numbers (`10/4`, `3*(2+1)`), with either minus and either decimal sign; one that begins
 * with a plus is added to `now`. Null for what is none.
 */
export function typed(text: string, now = 0): number | null {
  const plain = text.replace(/\s|%/g, '').replaceAll(MINUS, '-').replaceAll('×', '*').replaceAll(',', '.');
  const added = plain.startsWith('+');
  const value = new Sum(added ? plain.slice(1) : plain).all();
  if (value === null || !Number.isFinite(value)) return null;
  return added ? now + value : value;
}

/** Readings of one RGB colour in the channels of `ids`: sign and told value. */
export function readings(
  rgb: readonly number[],
  encoding: Encoding,
  ids: readonly string[]
): { channel: Channel; text: string }[] {
  const values = readChannels(rgb, encoding);
  return ids.map((id) => {
    const channel = channels.find((c) => c.id === id)!;
    const { digits, signed } = channel.readout;
    return { channel, text: told(toReadout(channel, values[id]), digits, signed) };
  });
}

export const bytesTold = (bytes: number): string =>
  bytes >= 2 ** 20 ? `${(bytes / 2 ** 20).toFixed(1)} MB` : `${Math.max(1, Math.round(bytes / 1024))} kB`;

/** A time to wait in words: “5 s”, “2 min”. */
export const durationTold = (seconds: number): string =>
  seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`;
