import { freeName, type Picture, type Reference } from '$core/document';
import { filterInName } from '$core/files/fits/told';
import { isComposed, withPart, type Composed, type Row } from '$core/heads';
import { newId } from './names';
import type { Session } from './session.svelte';

/** What red, green, blue and lightness are made of, by the filters of the pictures. */
export interface Assignment {
  readonly title: string;
  readonly rows: Readonly<
    Partial<Record<Row, readonly { readonly filter: string; readonly weight: number }[]>>
  >;
}

/** All of one filter in each row. */
const whole = (title: string, filters: Readonly<Partial<Record<Row, string>>>): Assignment => ({
  title,
  rows: Object.fromEntries(Object.entries(filters).map(([row, filter]) => [row, [{ filter, weight: 1 }]]))
});

/** Usual assignments, by the trade's letters of the filters. */
export const assignments: readonly Assignment[] = [
  whole('S-H-O', { r: 'S', g: 'H', b: 'O' }),
  whole('H-O-O', { r: 'H', g: 'O', b: 'O' }),
  whole('H-O-S', { r: 'H', g: 'O', b: 'S' }),
  whole('L-R-G-B', { r: 'R', g: 'G', b: 'B', l: 'L' }),
  whole('R-G-B', { r: 'R', g: 'G', b: 'B' })
];

/** The filter of a picture, by its name; the name itself where it tells none. */
export const filterOf = ({ name }: Picture): string => filterInName(name) || name;

const nothing: Composed = { kind: 'compose', r: [], g: [], b: [] };

/** The pictures that another may be made of: all that are made of frames alone, and of these the first of each filter. */
function byFilter(pictures: readonly Picture[]): Map<string, Picture> {
  const found = new Map<string, Picture>();
  for (const picture of pictures) {
    const filter = filterOf(picture);
    if (!isComposed(picture.head) && !found.has(filter)) found.set(filter, picture);
  }
  return found;
}

/** The head of an assignment; null where a filter of it is missing. */
export function assigned(pictures: readonly Picture[], { rows }: Assignment): Composed | null {
  const found = byFilter(pictures);
  let head = nothing;
  for (const [row, parts] of Object.entries(rows) as [Row, Assignment['rows'][Row] & object][]) {
    head = { ...head, [row]: [] };
    for (const { filter, weight } of parts) {
      const picture = found.get(filter);
      if (!picture) return null;
      head = withPart(head, row, { picture: picture.id }, weight);
    }
  }
  return head;
}

/** Makes a picture out of the others: by the first assignment whose filters are there, else of the first three. */
export function composePicture(session: Session): void {
  const { pictures } = session.document;
  const usual = assignments.find((one) => assigned(pictures, one));
  const three = pictures.slice(0, 3);
  const rows: readonly Row[] = ['r', 'g', 'b'];
  const head =
    (usual && assigned(pictures, usual)) ??
    rows.reduce<Composed>(
      (made, row, i) => withPart(made, row, { picture: (three[i] ?? three[0]).id }, 1),
      nothing
    );
  const picture: Picture = {
    id: newId('p'),
    name: freeName(pictures, usual?.title ?? 'Together'),
    head,
    steps: []
  };
  const made = session.change('Put pictures together', (draft) => void draft.pictures.push(picture));
  if (made) void session.showPicture(picture.id, null);
}

type Average = Extract<Picture['head'], { kind: 'average' }>;

export const isAverage = (head: Picture['head']): head is Average => head.kind === 'average';

/** Makes the average of all pictures that are made of frames alone. */
export function averagePictures(session: Session): void {
  const { pictures } = session.document;
  const of = pictures.filter(({ head }) => head.kind === 'frame').map(({ id }) => ({ picture: id }));
  const head: Average = { kind: 'average', of, weighting: 'noise', match: true };
  const picture: Picture = { id: newId('p'), name: freeName(pictures, 'Average'), head, steps: [] };
  const made = session.change('Average pictures', (draft) => void draft.pictures.push(picture));
  if (made) void session.showPicture(picture.id, null);
}

export function changeAverage(session: Session, label: string, change: (head: Average) => void): void {
  const { id } = session.cursor.picture;
  session.change(label, (draft) => {
    const picture = draft.pictures.find((p) => p.id === id);
    if (picture && isAverage(picture.head)) change(picture.head);
  });
}

/** Changes what the shown picture is made of. */
export function changeParts(
  session: Session,
  label: string,
  change: (head: Composed) => Composed,
  gesture?: string
): void {
  const { id } = session.cursor.picture;
  session.change(
    label,
    (draft) => {
      const picture = draft.pictures.find((p) => p.id === id);
      if (picture && isComposed(picture.head))
        picture.head = change(JSON.parse(JSON.stringify(picture.head)) as Composed);
    },
    gesture
  );
}

/** The pictures that the shown one may be made of: all others, in the order of their tabs. */
export const sourcesFor = ({
  document,
  cursor
}: Session): readonly { readonly picture: Picture; readonly from: Reference }[] =>
  document.pictures
    .filter((p) => p.id !== cursor.picture.id)
    .map((picture) => ({ picture, from: { picture: picture.id } }));
