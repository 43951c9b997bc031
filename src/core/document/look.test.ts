import { describe, expect, it } from 'vitest';
import { parseDocument, parseLook, type KrombaDocument } from './document';
import { atStrength, lookOf, putOn, strengthIn, wholePath, type Naming } from './look';

const light = { terms: [{ source: { kind: 'channel', channel: 'lab.l' } }] };
const document = parseDocument({
  ...{ kromba: 1, kind: 'document', name: 'Jug' },
  frames: [{ id: 'f', name: 'jug', file: 'jug.png' }],
  pictures: [
    {
      ...{ id: 'p', name: 'Jug', head: { kind: 'frame', frame: 'f' } },
      steps: [
        { id: 's1', op: 'straighten', params: { angle: 2 } },
        { id: 's2', op: 'invert', params: {}, where: { terms: [{ source: { kind: 'mask', id: 'm2' } }] } },
        { id: 's3', op: 'lay', params: { from: { picture: 'q' } } },
        { id: 's4', op: 'group', params: { steps: [{ id: 's5', op: 'lut', params: { table: 't1' } }] } },
        {
          id: 's6',
          op: 'blur',
          params: {},
          where: { terms: [{ source: { kind: 'ramp', from: [0, 0], to: [9, 9] } }] }
        }
      ]
    },
    { id: 'q', name: 'Other', head: { kind: 'frame', frame: 'f' } }
  ],
  masks: [
    { id: 'm1', name: 'Light', mask: light },
    { id: 'm2', name: 'Glaze', mask: { terms: [{ source: { kind: 'mask', id: 'm1' }, invert: true }] } },
    { id: 'm3', name: 'Unused', mask: light }
  ],
  tables: [{ id: 't1', name: 'Kiln', file: 'kiln.cube' }]
});
const { steps } = document.pictures[0];

let count = 0;
const naming: Naming = { newId: (kind) => `${kind}${++count}x`, tableId: (id) => `own-${id}` };
const plain = (): KrombaDocument =>
  parseDocument({
    ...{ kromba: 1, kind: 'document', name: 'Bowl' },
    frames: [{ id: 'f', name: 'bowl', file: 'bowl.png' }],
    pictures: [
      {
        ...{ id: 'p', name: 'Bowl', head: { kind: 'frame', frame: 'f' } },
        steps: [{ id: 's1', op: 'mono', params: {} }]
      }
    ],
    // Another mask of the same id.
    masks: [
      { id: 'm1', name: 'Glaze', mask: { terms: [{ source: { kind: 'channel', channel: 'cmyk.m' } }] } }
    ],
    tables: [{ id: 'own-t1', name: 'Kiln', file: 'kiln.cube' }]
  });

describe('a look', () => {
  const { look, told } = lookOf(document, steps, { name: 'Kiln blue', note: 'for jugs' });

  it('says where a step loses its mask, and so acts everywhere', () => {
    const where = { terms: [{ source: { kind: 'channel', channel: 'lum', of: { picture: 'q' } } }] };
    const [masked] = parseLook({
      ...{ kromba: 1, kind: 'look', name: 'x' },
      steps: [{ id: 's9', op: 'mono', params: {}, where }]
    }).steps;
    expect(lookOf(document, [masked], { name: 'x' }).told).toContain(
      'The mask of “Black and white” is made of another picture alone: without it, the step acts everywhere.'
    );
    expect(told.join(' ')).not.toContain('acts everywhere');
  });

  it('holds the steps with the masks and tables that they need, and can be read again', () => {
    expect(look.masks?.map((m) => m.name)).toEqual(['Glaze', 'Light']);
    expect(look.tables).toEqual(document.tables);
    expect(look.steps.map((s) => s.op)).toEqual(['straighten', 'invert', 'group', 'blur']);
    expect(parseLook(JSON.parse(JSON.stringify(look)))).toEqual(look);
    expect([look.name, look.note]).toEqual(['Kiln blue', 'for jugs']);
    expect(lookOf(document, [steps[0]], { name: 'Plain' }).look).toEqual({
      ...{ kromba: 1, kind: 'look', name: 'Plain', steps: [steps[0]] }
    });
  });

  it('says what does not travel', () => {
    expect(told).toEqual([
      '“Lay over” takes from another picture: that is left out.',
      'The masks “Glaze”, “Light” go with it.',
      expect.stringMatching(/^A mask is bound to its picture by a ramp: it will lie/)
    ]);
    expect(lookOf(document, [steps[0]], { name: 'Plain' }).told).toEqual([]);
  });

  it('is put on as a group at some strength, what moves pixels before all', () => {
    const other = plain();
    const group = putOn(other, 'p', look, 0.6, naming);
    const [picture] = other.pictures;
    expect(picture.steps.map((s) => s.op)).toEqual(['straighten', 'mono', 'group']);
    const last = picture.steps[2];
    expect([last.id, last.name, last.blend.opacity]).toEqual([group, 'Kiln blue', 0.6]);
    const inside = (last.params as { steps: typeof picture.steps }).steps;
    expect(inside.map((s) => s.op)).toEqual(['invert', 'group', 'blur']);
    // Its masks are there under names and ids that were free, and mean what they meant.
    expect(other.masks.map((m) => m.name)).toEqual(['Glaze', 'Glaze, 2', 'Light']);
    const [, glaze, lightness] = other.masks;
    expect(inside[0].where?.terms[0].source).toEqual({ kind: 'mask', id: glaze.id });
    expect(glaze.mask.terms[0].source).toEqual({ kind: 'mask', id: lightness.id });
    expect(other.masks[0].mask.terms[0].source).toEqual({ kind: 'channel', channel: 'cmyk.m' });
    expect(JSON.stringify(inside[1])).toContain('"table":"own-t1"');
    expect(parseDocument(JSON.parse(JSON.stringify(other)))).toEqual(other);
  });

  it('brings no mask twice', () => {
    const other = plain();
    putOn(other, 'p', look, 1, naming);
    const before = other.masks.length;
    putOn(other, 'p', lookOf(document, [steps[1]], { name: 'Again' }).look, 1, naming);
    expect(other.masks.length).toBe(before);
    expect(parseDocument(JSON.parse(JSON.stringify(other)))).toEqual(other);
  });

  it('that only moves pixels makes no group', () => {
    const other = plain();
    expect(putOn(other, 'p', lookOf(document, [steps[0]], { name: 'Level' }).look, 0.5, naming)).toBeNull();
    expect(other.pictures[0].steps.map((s) => s.op)).toEqual(['straighten', 'mono']);
  });
});

describe('a look at some strength', () => {
  const look = parseLook({
    ...{ kromba: 1, kind: 'look', name: 'Dusk' },
    steps: [
      { id: 'a', op: 'straighten', params: { angle: 2 } },
      { id: 'strength', op: 'invert', params: {} },
      { id: 'b', op: 'blur', params: {} }
    ]
  });

  it('is a group of all but what moves pixels, under an id of its own', () => {
    const weak = parseLook(JSON.parse(JSON.stringify(atStrength(look, 0.6))));
    expect(weak.steps.map(({ id, op }) => [id, op])).toEqual([
      ['a', 'straighten'],
      ['strength-', 'group']
    ]);
    const [, group] = weak.steps;
    expect(group.blend.opacity).toBe(0.6);
    expect((group.params as { steps: { id: string }[] }).steps.map(({ id }) => id)).toEqual([
      'strength',
      'b'
    ]);
    expect(weak.name).toBe('Dusk');
  });

  it('stays as it is in full, and where it only moves pixels', () => {
    expect(atStrength(look, 1)).toBe(look);
    expect([strengthIn(atStrength(look, 0.6)), strengthIn(look)]).toEqual([0.6, 1]);
    const moving = { ...look, steps: [look.steps[0]] };
    expect(atStrength(moving, 0.2)).toBe(moving);
  });
});

it('knows all steps of a version: those before the place where it begins, and its own', () => {
  const from = (picture: string, after?: string): object => ({
    kind: 'compose',
    ...Object.fromEntries(
      ['r', 'g', 'b'].map((c) => [
        c,
        [{ from: { picture, ...(after && { after }) }, channel: `rgb.${c}`, weight: 1 }]
      ])
    )
  });
  const step = (id: string): object => ({ id, op: 'invert', params: {} });
  const versions = parseDocument({
    ...{ kromba: 1, kind: 'document', name: 'Versions' },
    frames: [{ id: 'f', name: 'jug', file: 'jug.png' }],
    pictures: [
      { id: 'p', name: 'P', head: { kind: 'frame', frame: 'f' }, steps: [step('a'), step('b'), step('c')] },
      { id: 'q', name: 'Q', head: from('p', 'b'), steps: [step('d'), step('e')] },
      { id: 'r', name: 'R', head: from('q', 'd'), steps: [step('g')] },
      { id: 's', name: 'S', head: from('q', 'head'), steps: [step('h')] },
      { id: 't', name: 'T', head: from('q'), steps: [] }
    ]
  });
  const ids = (picture: string): string =>
    wholePath(
      versions,
      versions.pictures.find(({ id }) => id === picture)!
    )
      .map(({ id }) => id)
      .join('');
  expect(['p', 'q', 'r', 's', 't'].map(ids)).toEqual(['abc', 'abde', 'abdg', 'abh', 'abde']);
});
