import type { Encoding } from '../colour';
import type { Table } from '../lut/table';
import type { Look } from './document';
import { documentOf } from './look';
import { usedByStep } from './references';
import { DocumentError } from './problem';
import { Resolver } from './resolve';
import { titleOf, type PictureSource } from './step';

/** What puts a look on frames that are open, by their keys. */
export type LookOn = (key: string, frame: { readonly encoding: Encoding }) => PictureSource;

/**
 * @param tables of the look, by its own ids for them @param hashes of their content; their names will do where no two of a name are open
 * @throws Error, in words for a person, where it takes from another picture
 */
export function lookOn(
  look: Look,
  tables: ReadonlyMap<string, Table>,
  hashes: Readonly<Record<string, string>> = {}
): LookOn {
  const taker = look.steps.find((step) => usedByStep(step).some(({ used }) => 'picture' in used));
  if (taker)
    throw new DocumentError(`“${titleOf(taker)}” takes from another picture, which a look does not hold.`);
  return (key, { encoding }) => {
    const document = documentOf(look, { file: 'frame', encoding });
    const files = Object.fromEntries(document.tables.map(({ id, file }) => [id, hashes[id] ?? file]));
    return new Resolver(document, { ...files, frame: key }, tables).whole(document.pictures[0]);
  };
}
