import type { ReadChoices } from '../files';

const CHOICES = ['hdu', 'plane', 'range'] as const;
const MARK = '#';

/**
 * What stands for a frame once it is open: its file, and what of it is read. Two frames may lie in one file.
 * @param file content hash of the file, or another name for its content
 */
export function frameKey(file: string, frame: ReadChoices | undefined): string {
  const chosen = CHOICES.flatMap((name) => (frame?.[name] === undefined ? [] : [`${name}=${frame[name]}`]));
  return chosen.length > 0 ? file + MARK + chosen.join('&') : file;
}

/** The other way. */
export function readFrameKey(key: string): { readonly file: string; readonly choices: ReadChoices } {
  const at = key.lastIndexOf(MARK);
  if (at < 0) return { file: key, choices: {} };
  const choices = Object.fromEntries(
    key
      .slice(at + 1)
      .split('&')
      .map((one) => [one.slice(0, one.indexOf('=')), Number(one.slice(one.indexOf('=') + 1))])
  ) as ReadChoices;
  return { file: key.slice(0, at), choices };
}
