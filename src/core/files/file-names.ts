/** As long as a document takes a file's name. */
const LONGEST = 200;
const LONGEST_EXTENSION = 12;

/** `name`, or the first of “name (2)”, “name (3)” … that is not taken; what is too long is cut before the extension. */
export function freeFileName(name: string, taken: (name: string) => boolean): string {
  const dot = name.lastIndexOf('.');
  const extension = dot > 0 && name.length - dot <= LONGEST_EXTENSION ? name.slice(dot) : '';
  const stem = name.slice(0, name.length - extension.length);
  for (let n = 1; ; n++) {
    const count = n > 1 ? ` (${n})` : '';
    const tried = stem.slice(0, LONGEST - extension.length - count.length) + count + extension;
    if (!taken(tried)) return tried;
  }
}

/** A file's name as a document takes it: without folders, not empty, not too long, not one of those that are taken. */
export const ownFileName = (name: string, taken: ReadonlySet<string> = new Set()): string =>
  freeFileName(name.replace(/[\\/]/g, '_') || 'picture', (tried) => taken.has(tried));

/** What files may be called that come to others: each as none of those is, and none that came before it. */
export function freeFileNames(
  ...others: readonly (readonly { readonly file: string }[])[]
): (given: string) => string {
  const taken = new Set(others.flat().map(({ file }) => file));
  return (given) => {
    const name = ownFileName(given, taken);
    taken.add(name);
    return name;
  };
}

/** What a file is called, for people: all of its name where that is nothing but an extension. */
export const withoutExtension = (name: string): string => name.replace(/\.[^.]+$/, '') || name;
