const MOST = 3;

/** The first of several names, and how many more there are. */
export const someOf = (names: readonly string[]): string =>
  names.slice(0, MOST).join(', ') + (names.length > MOST ? ` and ${names.length - MOST} more` : '');

export const quoted = (name: string): string => `“${name}”`;

/** Who was left out of something, and why: a sentence for each reason. @param told of one of them, and of several */
export function leftOut(
  ones: readonly { readonly name: string; readonly why: string }[],
  told: readonly [string, string]
): string[] {
  const byWhy = new Map<string, string[]>();
  for (const { name, why } of ones) byWhy.set(why, [...(byWhy.get(why) ?? []), quoted(name)]);
  return [...byWhy].map(([why, names]) => `${someOf(names)} ${told[names.length > 1 ? 1 : 0]} ${why}`);
}
