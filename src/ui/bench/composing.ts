import { freeName, type Picture, type Reference } from '$core/document';
import { filterInName } from '$core/files/fits/told';
import { isComposed, withPart, type Composed, type Row } from '$core/heads';
import { newId } from './names';
import type { Session } from './session.svelte';

/** Usual assignments, by the trade's letters of the filters: what red, green, blue and lightness are made of. */
export const assignments: readonly {
  readonly title: string;
  readonly rows: Readonly<Partial<Record<Row, string>>>;
}[] = [
  { title: 'S-H-O', rows: { r: 'S', g: 'H', b: 'O' } },
  { title: 'H-O-O', rows: { r: 'H', g: 'O', b: 'O' } },
  { title: 'H-O-S', rows: { r: 'H', g: 'O', b: 'S' } },
  { title: 'L-R-G-B', rows: { r: 'R', g: 'G', b: 'B', l: 'L' } },
  { title: 'R-G-B', rows: { r: 'R', g: 'G', b: 'B' } }
];

const nothing: Composed = { kind: 'compose', r: [], g: [], b: [] };

/** The pictures that another may be made of: all that are made of frames alone, and of these the first of each filter. */
function byFilter(pictures: readonly Picture[]): Map<string, Picture> {
  const found = new Map<string, Picture>();
  for (const picture of pictures) {
    const filter = filterInName(picture.name) || picture.name;
    if (!isComposed(picture.head) && !found.has(filter)) found.set(filter, picture);
  }
  return found;
}

/** The head of an assignment; null where a filter of it is missing. */
export function assigned(
  pictures: readonly Picture[],
  rows: Readonly<Partial<Record<Row, string>>>
): Composed | null {
  const found = byFilter(pictures);
  let head = nothing;
  for (const [row, filter] of Object.entries(rows) as [Row, string][]) {
    const picture = found.get(filter);
    if (!picture) return null;
    head = withPart(head, row, { picture: picture.id }, 1);
  }
  return head;
}

/** Makes a picture out of the others: by the first assignment whose filters are there, else of the first three. */
export function composePicture(session: Session): void {
  const { pictures } = session.document;
  const usual = assignments.find(({ rows }) => assigned(pictures, rows));
  const three = pictures.slice(0, 3);
  const rows: readonly Row[] = ['r', 'g', 'b'];
  const head =
    (usual && assigned(pictures, usual.rows)) ??
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
