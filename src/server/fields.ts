import { z } from 'zod';
import { SPACE_IDS } from '../core/colour/output';
import { INTENTS } from '../core/colour/own';
import { COMPRESSIONS, fileFormats } from '../core/files';
import { METADATA_CHOICES } from '../core/files/metadata';
import { namePattern } from '../core/files/name-pattern';
import { bakedSizes } from '../core/lut/bake';

const oneOf = <T extends string>(words: readonly T[]): z.ZodType<T> =>
  z.enum(words as readonly [T, ...T[]], `must be one of ${words.join(', ')}`);

const yes = oneOf(['yes', 'no']).default('no');
/** Two numbers with a comma between. */
const pair = (what: string): z.ZodType<[number, number], string> =>
  z
    .string()
    .regex(/^\s*-?[\d.e+-]+\s*,\s*-?[\d.e+-]+\s*$/, `must be two numbers, ${what}`)
    .transform((text) => text.split(',').map(Number) as [number, number])
    .refine((both) => both.every(Number.isFinite), `must be two numbers, ${what}`);

const look = z.string().describe('A look, as JSON text.');

/** The fields of text of each thing that is asked for. */
export const FIELDS = {
  render: z.object({
    look: look.optional(),
    picture: z.string().optional().describe('With a document: the name of one of its pictures.'),
    strength: z.string().optional().describe('With a look: 1…100 percent of it.'),
    format: oneOf(fileFormats.map(({ id }) => id))
      .default('png')
      .describe('Of the files that come back.'),
    depth: oneOf(['8', '16', '32'])
      .optional()
      .describe('Bits a channel; the usual of the format without it.'),
    space: oneOf(SPACE_IDS)
      .optional()
      .describe('Whose RGB is written, with its profile; srgb where no “profile” is sent either.'),
    intent: oneOf(INTENTS)
      .optional()
      .describe('With a “profile”: how colours are brought into it; relative without it.'),
    'black-point': oneOf(['keep', 'cut'])
      .optional()
      .describe(
        'With a “profile”: whether what is darker than it can be is brought along, or cut; keep without it.'
      ),
    compression: oneOf(COMPRESSIONS)
      .optional()
      .describe('Of a TIFF of 16 bits: how its samples lie in the file; deflate without it.'),
    quality: z.string().optional().describe('1…100, for formats that lose something.'),
    size: z.string().optional().describe('Pixels along the longer side; nothing is enlarged.'),
    dither: oneOf(['yes', 'no']).default('yes').describe('8 bits: what rounding loses is spread.'),
    metadata: oneOf(METADATA_CHOICES)
      .default('keep')
      .describe('EXIF, IPTC and XMP of the image: all, all but the place and the camera, or none.'),
    history: yes.describe('The steps are written into its XMP, in words.'),
    grey: yes.describe('One plane.'),
    range: oneOf(['cut', 'keep']).default('cut').describe('32 bits: values outside 0…1.'),
    name: namePattern
      .default('{name}')
      .describe('What the files are called: {name}, {look}, {n} and {date} are put in.')
  }),
  bake: z.object({
    look,
    size: oneOf(bakedSizes.map(String)).default('33').describe('Nodes along each axis of the table.'),
    title: z.string().min(1, 'must not be empty').max(200, 'must be at most 200 characters').optional(),
    domain: pair('LOW,HIGH')
      .default([0, 1])
      .refine(([low, high]) => low < high, 'must rise')
      .describe('What goes in lies between these.'),
    plain: yes.describe('No curves before the table.')
  }),
  measure: z.object({
    at: pair('x,y')
      .refine((at) => at.every((v) => Number.isInteger(v) && v >= 0), 'must be whole numbers from 0 on')
      .optional()
      .describe('A pixel, from the upper left, of which every channel is told.')
  })
};
export type RenderFields = z.output<typeof FIELDS.render>;
