import { z } from 'zod';
import { headKind, headSchema, type DocumentHead } from '../heads';
import { idSchema, maskSchema } from './mask';
import { nameSchema } from './name';
import { pinSchema } from './pins';
import { DocumentError, problemText, shortened } from './problem';
import { referenceProblem } from './references';
import { allSteps } from './places';
import { pathSchema } from './step';

export const FORMAT = 1;
/** Frames, pictures or named masks of a document. */
export const MOST_OF_A_KIND = 1000;
export const MOST_PINS = 10_000;

const MOST_PARTS = 1000;
const MOST_PLANES = 100_000;
const LARGEST_RANGE = 1e30;

const fileName = nameSchema.refine((file) => !/[\\/]/.test(file), 'must be a file name without folders');

const frame = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** Name of the image file beside the document or in its bundle. */
  file: fileName,
  encoding: z.enum(['coded', 'linear']).default('coded'),
  /** Of a file with several pictures, the part that is read, counted from 0; left out: the first. */
  hdu: z.int().min(0).max(MOST_PARTS).optional(),
  /** Of several planes, the one that is read, counted from 1; left out: three as red, green and blue, else the first. */
  plane: z.int().min(1).max(MOST_PLANES).optional(),
  /** What its samples are divided by to come to 0…1; left out: as the file's values ask for. */
  range: z.number().positive().max(LARGEST_RANGE).optional()
});

const picture = z.strictObject({
  id: idSchema,
  name: nameSchema,
  head: headSchema,
  steps: pathSchema.default([]),
  /** One of those that are best liked. */
  favourite: z.boolean().optional()
});

const namedMask = z.strictObject({ id: idSchema, name: nameSchema, mask: maskSchema });

/** A colour look-up table: its file lies beside the document, or in its bundle. */
const table = z.strictObject({ id: idSchema, name: nameSchema, file: fileName });

const several = <S extends z.ZodType>(one: S, what: string): z.ZodArray<S> =>
  z.array(one).max(MOST_OF_A_KIND, `takes at most ${MOST_OF_A_KIND} ${what}`);

const documentSchema = z
  .strictObject({
    kromba: z.literal(FORMAT),
    kind: z.literal('document'),
    name: nameSchema,
    frames: several(frame, 'frames').default([]),
    pictures: several(picture, 'pictures').default([]),
    masks: several(namedMask, 'masks').default([]),
    pins: z.array(pinSchema).max(MOST_PINS, `takes at most ${MOST_PINS} pins`).default([]),
    tables: several(table, 'tables').default([])
  })
  .superRefine((document, context) => {
    const refuse = (path: PropertyKey[], message: string): void =>
      context.addIssue({ code: 'custom', path, message });
    for (const list of ['frames', 'pictures', 'masks', 'pins', 'tables'] as const) {
      const seen = new Set<string>();
      document[list].forEach(({ id }, i) => {
        if (seen.has(id)) refuse([list, i, 'id'], `“${shortened(id)}” is there twice`);
        seen.add(id);
      });
    }
    document.tables.forEach(({ id }, t) => {
      if (document.frames.some((f) => f.id === id))
        refuse(['tables', t, 'id'], `“${shortened(id)}” is the id of a frame as well`);
    });
    document.pictures.forEach((picture, p) => {
      const steps = new Set<string>();
      picture.steps.forEach((step, s) => {
        for (const { id } of allSteps([step])) {
          if (steps.has(id)) refuse(['pictures', p, 'steps', s, 'id'], `“${shortened(id)}” is there twice`);
          steps.add(id);
        }
      });
      const { head } = picture;
      const kind = headKind(head.kind);
      for (const { id, path } of kind.frames(head)) {
        if (document.frames.some((f) => f.id === id)) continue;
        refuse(['pictures', p, 'head', ...path], `there is no frame “${shortened(id)}” in the document`);
      }
    });
    document.pins.forEach(({ picture }, n) => {
      if (picture === undefined || document.pictures.some((p) => p.id === picture)) return;
      refuse(['pins', n, 'picture'], `there is no picture “${shortened(picture)}” in the document`);
    });
    const problem = referenceProblem(document);
    if (problem) refuse(problem.path, problem.message);
  });

const LONGEST_NOTE = 2000;

const lookSchema = z.strictObject({
  kromba: z.literal(FORMAT),
  kind: z.literal('look'),
  name: nameSchema,
  note: z.string().max(LONGEST_NOTE, `has at most ${LONGEST_NOTE} letters`).optional(),
  steps: pathSchema,
  masks: several(namedMask, 'masks').optional(),
  tables: several(table, 'tables').optional()
});

export type KrombaDocument = z.infer<typeof documentSchema>;
export type Look = z.infer<typeof lookSchema>;
export type Picture = z.infer<typeof picture>;
export type DocumentFrame = z.infer<typeof frame>;
export type { DocumentHead };
export type NamedMask = KrombaDocument['masks'][number];

function parse<S extends z.ZodType>(schema: S, kind: 'document' | 'look', json: unknown): z.infer<S> {
  const header = json as { kromba?: unknown; kind?: unknown } | null;
  if (typeof json !== 'object' || header === null || Array.isArray(json)) {
    throw new DocumentError(`$: must be an object; this is no Kromba ${kind}.`);
  }
  if (typeof header.kromba === 'number' && header.kromba > FORMAT) {
    throw new DocumentError(
      `$.kromba: this ${kind} is of format ${header.kromba}, and this version of Kromba reads formats up to ${FORMAT}. Open it with a newer version.`
    );
  }
  if (typeof header.kind === 'string' && header.kind !== kind) {
    throw new DocumentError(`$.kind: this is a ${shortened(header.kind)}, where a ${kind} is expected.`);
  }
  const result = schema.safeParse(json, { reportInput: true });
  if (!result.success) throw new DocumentError(`${problemText(result.error.issues)}.`);
  return result.data;
}

function readJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new DocumentError(`This is not JSON: ${(error as Error).message}.`);
  }
}

/** @throws DocumentError with JSON path and reason */
export const parseDocument = (json: unknown): KrombaDocument => parse(documentSchema, 'document', json);
/** @throws DocumentError with JSON path and reason */
export const parseLook = (json: unknown): Look => parse(lookSchema, 'look', json);
/** @throws DocumentError, also for text that is not JSON */
export const readDocument = (text: string): KrombaDocument => parseDocument(readJson(text));
/** @throws DocumentError, also for text that is not JSON */
export const readLook = (text: string): Look => parseLook(readJson(text));

/** @throws DocumentError naming the pictures there are */
export function pictureNamed(document: KrombaDocument, wanted: string): Picture {
  const picture =
    document.pictures.find((p) => p.name === wanted) ?? document.pictures.find((p) => p.id === wanted);
  if (picture) return picture;
  const names = document.pictures.map((p) => `“${p.name}”`).join(', ') || 'none';
  throw new DocumentError(`There is no picture “${wanted}” in “${document.name}”. It has: ${names}.`);
}
