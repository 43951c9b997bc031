import { z } from 'zod';
import type { Picture } from '$core/document';
import { partsOf, type Composed, type Row } from '$core/heads';
import { filterOf, type Assignment } from './composing';

const partSchema = z.object({ filter: z.string(), weight: z.number() });
const keptSchema = z.array(
  z.object({
    title: z.string(),
    rows: z.partialRecord(z.enum(['r', 'g', 'b', 'l']), z.array(partSchema))
  })
);
const KEY = 'kromba-assignments';
const ROWS: readonly Row[] = ['r', 'g', 'b', 'l'];

function remembered(): Assignment[] {
  try {
    const kept = keptSchema.safeParse(JSON.parse(localStorage.getItem(KEY) ?? '[]'));
    return kept.success ? kept.data : [];
  } catch {
    return [];
  }
}

/** What a head is made of, by the filters of its pictures. */
export const assignmentOf = (title: string, head: Composed, pictures: readonly Picture[]): Assignment => ({
  title,
  rows: Object.fromEntries(
    ROWS.filter((row) => head[row] !== undefined).map((row) => [
      row,
      pictures.flatMap((picture) => {
        const weight = partsOf(head, row, { picture: picture.id });
        return weight === 0 ? [] : [{ filter: filterOf(picture), weight }];
      })
    ])
  )
});

/** Assignments that were kept under a name, in this browser. */
class OwnAssignments {
  all = $state.raw<readonly Assignment[]>(remembered());

  /** One of the same name is replaced. @returns why not, in words for a person; nothing where it is kept */
  keep(one: Assignment): string {
    return this.put([...this.all.filter(({ title }) => title !== one.title), one]);
  }

  remove(title: string): string {
    return this.put(this.all.filter((one) => one.title !== title));
  }

  private put(next: readonly Assignment[]): string {
    try {
      localStorage.setItem(KEY, JSON.stringify(next));
    } catch {
      return 'This browser’s storage is full or closed: what was kept before is as it was. Delete documents, and try again.';
    }
    this.all = next;
    return '';
  }
}

export const ownAssignments = new OwnAssignments();
