import { describe, expect, it } from 'vitest';
import { changeProblem, parseDocument, parseLook, type KrombaDocument } from '.';
import { change, type Recipe } from './history';

const step = (id: string, op: string, params: object = {}, where: object | null = null): object => ({
  ...{ id, op, params, where }
});
const before = parseDocument({
  ...{ kromba: 1, kind: 'document', name: 'Tiles' },
  frames: [{ id: 'f', name: 'tiles', file: 'tiles.png' }],
  pictures: [
    {
      ...{ id: 'a', name: 'Warm', head: { kind: 'frame', frame: 'f' } },
      steps: [
        step('i', 'invert', {}, { terms: [{ source: { kind: 'channel', channel: 'lum' } }] }),
        step('b', 'blur', { radius: 2 }),
        step('c', 'channel', { stack: [{ channel: 'rgb.r' }] })
      ]
    }
  ],
  masks: [{ id: 'm', name: 'Glaze', mask: {} }],
  pins: [{ id: 'n', name: 'pin 1', x: 1, y: 1 }]
});
const look = (steps: object[]): object => ({ kromba: 1, kind: 'look', name: 'x', steps });
/** The same many times over, each with an id of its own. */
const many = <T extends { id: string }>(one: T, n: number): T[] =>
  Array.from({ length: n }, (_, i) => ({ ...one, id: `${one.id}${i}` }));

const cases: [string, Recipe, string][] = [
  [
    'a step that moves pixels behind one that does not',
    (d) => void d.pictures[0].steps.push(parseLook(look([step('t', 'straighten')])).steps[0]),
    '“Straighten” moves pixels and must stand before all other steps'
  ],
  [
    'the same step twice',
    (d) => void d.pictures[0].steps.push(d.pictures[0].steps[0]),
    'a step of “Warm” would be there twice'
  ],
  ['the same pin twice', (d) => void d.pins.push({ ...d.pins[0] }), 'one of the pins would be there twice'],
  [
    'steps',
    (d) => void (d.pictures[0].steps = many(d.pictures[0].steps[0], 501)),
    'the path of “Warm” would have 501 steps, and takes at most 500'
  ],
  ['pictures', (d) => void d.pictures.push(...many(d.pictures[0], 1000)), 'takes at most 1000 pictures'],
  ['masks', (d) => void d.masks.push(...many(d.masks[0], 1000)), 'takes at most 1000 masks'],
  ['pins', (d) => void d.pins.push(...many(d.pins[0], 10_000)), 'takes at most 10000 pins'],
  [
    'terms of a mask',
    (d) => {
      const { terms } = d.pictures[0].steps[0].where!;
      for (let i = 0; i < 64; i++) terms.push({ ...terms[0] });
    },
    '“Invert”: terms takes at most 64 terms'
  ],
  [
    'terms of a named mask',
    (d) => {
      const { terms } = d.pictures[0].steps[0].where!;
      d.masks[0].mask.terms = Array.from({ length: 65 }, () => ({ ...terms[0] }));
    },
    'the mask “Glaze”: terms takes at most 64 terms'
  ],
  [
    'entries of a stack',
    (d) => {
      const { stack } = d.pictures[0].steps[2].params as { stack: object[] };
      for (let i = 0; i < 32; i++) stack.push({ ...stack[0] });
    },
    '“Channel light”: stack'
  ],
  [
    'a number out of its range',
    (d) => void ((d.pictures[0].steps[1].params as { radius: number }).radius = 1e9),
    '“Blur”: radius'
  ],
  ['a name', (d) => void (d.pictures[0].name = 'x'.repeat(201)), 'a name must have 1 to 200 letters'],
  ['the size of a pin', (d) => void (d.pins[0].size = 5000), 'the pin “pin 1”: size must be at most 1000 px'],
  [
    'the picture of a pin',
    (d) => void (d.pins[0].picture = 'gone'),
    'would belong to a picture that is not there'
  ]
];

describe('a change of a document', () => {
  it.each(cases)('is refused where it goes over the bound: %s', (_, recipe, reason) => {
    const { document } = change(before, 'x', recipe);
    // The oracle is the reader itself: what it would refuse is refused on the spot, and nothing else.
    expect(() => parseDocument(JSON.parse(JSON.stringify(document)))).toThrow();
    expect(changeProblem(before, document)).toContain(reason);
  });

  it.each<[string, Recipe]>([
    ['500 steps', (d) => void (d.pictures[0].steps = many(d.pictures[0].steps[1], 500))],
    ['1000 pictures', (d) => void d.pictures.push(...many(d.pictures[0], 999))],
    ['another number', (d) => void ((d.pictures[0].steps[1].params as { radius: number }).radius = 7)]
  ])('is made up to it: %s', (_, recipe) => {
    const { document } = change(before, 'x', recipe);
    expect(() => parseDocument(JSON.parse(JSON.stringify(document)) as KrombaDocument)).not.toThrow();
    expect(changeProblem(before, document)).toBeNull();
  });
});
