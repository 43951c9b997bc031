import { channels, readChannels, toReadout, type Channel } from '$core/colour';

const MINUS = '−';

/** A number as it is told on the screen: fixed digits, a true minus, no “−0”. */
export function told(value: number, digits: number, signed = false): string {
  if (Number.isNaN(value)) return '–';
  const text = Math.abs(value).toFixed(digits);
  if (Number(text) === 0) return text;
  return value < 0 ? MINUS + text : signed ? `+${text}` : text;
}

/** A typed number, with either minus and either decimal sign; null for what is none. */
export function typed(text: string): number | null {
  const plain = text.trim().replace(MINUS, '-').replace(',', '.').replace(/\s*%$/, '');
  return /^[+-]?(\d+\.?\d*|\.\d+)$/.test(plain) ? Number(plain) : null;
}

/** Readings of one coded RGB colour in the channels of `ids`: sign and told value. */
export function readings(
  rgb: readonly number[],
  ids: readonly string[]
): { channel: Channel; text: string }[] {
  const values = readChannels(rgb[0], rgb[1], rgb[2]);
  return ids.map((id) => {
    const channel = channels.find((c) => c.id === id)!;
    const { digits, signed } = channel.readout;
    return { channel, text: told(toReadout(channel, values[id]), digits, signed) };
  });
}

export const bytesTold = (bytes: number): string =>
  bytes >= 2 ** 20 ? `${(bytes / 2 ** 20).toFixed(1)} MB` : `${Math.max(1, Math.round(bytes / 1024))} kB`;
