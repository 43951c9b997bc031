import { describe, expect, it } from 'vitest';
import { parseDocument, referenceProblem, usersOf, type KrombaDocument } from '.';

const head = { kind: 'frame', frame: 'f' };
const of = (picture: string, after?: string): object => ({
  terms: [{ source: { kind: 'channel', channel: 'lum', of: after ? { picture, after } : { picture } } }]
});
const byMask = (id: string): object => ({ terms: [{ source: { kind: 'mask', id } }] });
const step = (id: string, where: object | null = null, more: object = {}): object => ({
  id,
  op: 'invert',
  params: {},
  where,
  ...more
});
const document = (pictures: object[], masks: object[] = []): unknown => ({
  ...{ kromba: 1, kind: 'document', name: 'Tiles', frames: [{ id: 'f', name: 'tiles', file: 'tiles.png' }] },
  pictures,
  masks
});
const parsed = (pictures: object[], masks: object[] = []): KrombaDocument =>
  parseDocument(document(pictures, masks));

describe('references', () => {
  it.each([
    [
      'pictures, by their masks',
      [
        { id: 'a', name: 'Warm', head, steps: [step('s', of('b'))] },
        { id: 'b', name: 'Cool', head, steps: [step('t', of('a'))] }
      ],
      [],
      'pictures refer to each other in a circle: “Warm” → “Cool” → “Warm”'
    ],
    [
      'a picture and its own end',
      [{ id: 'a', name: 'Warm', head, steps: [step('s', of('a'))] }],
      [],
      'in a circle: “Warm” → “Warm”'
    ],
    [
      'a picture and a later step of its own',
      [{ id: 'a', name: 'Warm', head, steps: [step('s', of('a', 't')), step('t')] }],
      [],
      'in a circle: “Warm” → “Warm”'
    ],
    [
      'masks',
      [],
      [
        { id: 'm', name: 'Glaze', mask: byMask('n') },
        { id: 'n', name: 'Cloth', mask: byMask('m') }
      ],
      'masks refer to each other in a circle: “Glaze” → “Cloth” → “Glaze”'
    ],
    [
      'a mask that is made from a picture in which it is used',
      [{ id: 'a', name: 'Warm', head, steps: [step('s', byMask('m'))] }],
      [{ id: 'm', name: 'Glaze', mask: of('a') }],
      'in a circle: “Warm” → “Glaze” → “Warm”'
    ],
    [
      'exposures that are merged into each other',
      [
        {
          id: 'a',
          name: 'Dark',
          head,
          steps: [{ id: 's', op: 'merge', params: { from: { picture: 'b' } } }]
        },
        {
          id: 'b',
          name: 'Bright',
          head,
          steps: [
            { id: 't', op: 'channel', params: { stack: [{ channel: 'rgb.r', from: { picture: 'a' } }] } }
          ]
        }
      ],
      [],
      '“Dark” → “Bright” → “Dark”'
    ]
  ])('in a circle are refused with the names: %s', (_, pictures, masks, message) => {
    expect(() => parseDocument(document(pictures, masks))).toThrow(message);
  });

  it('may go to earlier steps of the same picture, and to the same place from many', () => {
    const steps = [step('s'), step('t', of('a', 's')), step('u', of('a', 'head')), step('v', of('a', 't'))];
    expect(referenceProblem(parsed([{ id: 'a', name: 'Warm', head, steps }]))).toBeNull();
  });

  it.each([
    ['a picture', of('z'), [], 'steps[0].where.terms[0].source.of: there is no picture “z”'],
    ['a step', of('a', 'z'), [], 'the picture “Warm” has no step “z”'],
    ['a mask', byMask('z'), [], 'where.terms[0].source.id: there is no mask “z” in the document']
  ])('that lead nowhere are refused: %s', (_, where, masks, message) => {
    expect(() => parsed([{ id: 'a', name: 'Warm', head, steps: [step('s', where)] }], masks)).toThrow(
      message
    );
  });

  it('tell who uses a thing', () => {
    const doc = parsed(
      [
        { id: 'a', name: 'Warm', head, steps: [step('s'), step('t', byMask('m'), { name: 'glow' })] },
        { id: 'b', name: 'Cool', head, steps: [step('u', of('a', 's'))] }
      ],
      [
        { id: 'm', name: 'Glaze', mask: { terms: [] } },
        { id: 'n', name: 'Rest', mask: byMask('m') }
      ]
    );
    expect(usersOf(doc, { mask: 'm' })).toEqual(['the step “glow” of “Warm”', 'the mask “Rest”']);
    expect(usersOf(doc, { picture: 'a' })).toEqual(['the step “Invert” of “Cool”']);
    expect(usersOf(doc, { picture: 'a', after: 's' })).toHaveLength(1);
    expect(usersOf(doc, { picture: 'a', after: 't' })).toEqual([]);
    expect(usersOf(doc, { mask: 'n' })).toEqual([]);
  });
});
