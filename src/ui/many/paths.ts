import { documentOf, lookOf, wholePath, type KrombaDocument, type Look, type Picture } from '$core/document';
import { beginsFrom } from '$core/heads';
import type { StoredDocument } from '$storage/library';

/** The path of a picture, as a look that can be put on files. */
export interface PathOffer {
  readonly id: string;
  /** Of the document and of the picture. */
  readonly title: string;
  readonly look: Look;
  /** Content hash of each table's file, by the table's id. */
  readonly files: Readonly<Record<string, string>>;
  /** What of it does not go along, in words for a person. */
  readonly told: readonly string[];
  /** Why it can't be put on a file, in words for a person; empty where it can. */
  readonly wrong: string;
}

export const pathId = (document: string, picture: string): string => `${document}/${picture}`;

const MADE_OF_SEVERAL = 'The picture is made of several: what puts them together is left out.';

/** The paths of all pictures that have one. */
export function pathsOf(documents: readonly StoredDocument[]): PathOffer[] {
  return documents.flatMap(({ id, document, files }) =>
    document.pictures.flatMap((picture): PathOffer[] => {
      const steps = wholePath(document, picture);
      if (steps.length === 0) return [];
      const { look, told } = lookOf(document, steps, { name: picture.name });
      const several = rootOf(document, picture).kind !== 'frame';
      const tables = (look.tables ?? []).map((table) => [table.id, files[table.id]]);
      const title = document.name === picture.name ? picture.name : `${document.name}: ${picture.name}`;
      return [
        {
          ...{ id: pathId(id, picture.id), title, look, files: Object.fromEntries(tables) },
          told: several ? [MADE_OF_SEVERAL, ...told] : told,
          wrong: look.steps.length === 0 ? 'Nothing of it goes along.' : whyNot(look)
        }
      ];
    })
  );
}

/** What the first of the pictures that a version comes from is made of. */
function rootOf(document: KrombaDocument, { head }: Pick<Picture, 'head'>): Picture['head'] {
  const from = beginsFrom(head);
  const origin = from && document.pictures.find(({ id }) => id === from.picture);
  return origin ? rootOf(document, origin) : head;
}

function whyNot(look: Look): string {
  try {
    documentOf(look, { file: 'file', encoding: 'coded' });
    return '';
  } catch (error) {
    return (error as Error).message;
  }
}
