import { describe, expect, it } from 'vitest';
import { actsOn, DocumentError, parseDocument, parseLook, pictureNamed, readDocument } from '.';

const step = (more: object = {}): object => ({ id: 's1', op: 'mix', params: {}, ...more });
const jug = (steps: object[] = [step()], more: object = {}): object => ({
  kromba: 1,
  kind: 'document',
  name: 'Jug under lamps',
  frames: [{ id: 'f1', name: 'jug', file: 'jug.png', encoding: 'coded' }],
  pictures: [{ id: 'p1', name: 'Jug', head: { kind: 'frame', frame: 'f1' }, steps }],
  masks: [],
  pins: [{ id: 'n1', name: 'glaze', x: 812, y: 440, size: 5, role: 'neutral' }],
  ...more
});

describe('the document', () => {
  it('fills in what the format says is the default', () => {
    const [parsed] = parseDocument(jug()).pictures[0].steps;
    expect(parsed).toEqual({
      id: 's1',
      op: 'mix',
      enabled: true,
      where: null,
      params: { model: 'rgb', rows: {}, normalize: false, light: 'coded', kept: {} },
      blend: { mode: 'normal', opacity: 1, under: [0, 0, 1, 1], over: [0, 0, 1, 1] }
    });
    expect(actsOn(parsed)).toEqual({ model: 'rgb', channels: ['r', 'g', 'b'] });
  });

  it('is the same after being written and read', () => {
    const once = parseDocument(jug([step({ on: { model: 'lab', channels: ['l'] }, name: 'lamp out' })]));
    expect(readDocument(JSON.stringify(once))).toEqual(once);
  });

  it.each([
    ['an unknown key', jug([step({ strength: 3 })]), '$.pictures[0].steps[0]: unknown key “strength”'],
    ['an unknown op', jug([step({ op: 'sparkle' })]), '$.pictures[0].steps[0].op: “sparkle” is no step'],
    [
      'a wrong type',
      jug([step({ params: { rows: { r: { g: 'much' } } } })]),
      '$.pictures[0].steps[0].params.rows.r.g: must be a number'
    ],
    [
      'a channel of another model',
      jug([step({ params: { rows: { c: {} } } })]),
      'params.rows.c: “c” is no channel of RGB'
    ],
    [
      'an unknown blend mode',
      jug([step({ blend: { mode: 'vivid' } })]),
      '$.pictures[0].steps[0].blend.mode: must be one of “normal”'
    ],
    ['an opacity over 1', jug([step({ blend: { opacity: 1.5 } })]), 'blend.opacity: must be at most 1'],
    [
      'falling limits',
      jug([step({ blend: { under: [0.5, 0.2, 1, 1] } })]),
      'blend.under: the four tones must not fall'
    ],
    [
      'a mask with a term of no kind',
      jug([step({ where: { terms: [{ source: { kind: 'cloud' } }] } })]),
      '$.pictures[0].steps[0].where.terms[0].source.kind'
    ],
    ['an id twice', jug([step(), step()]), '$.pictures[0].steps[1].id: “s1” is there twice'],
    ['a missing frame', jug([], { frames: [] }), '$.pictures[0].head.frame: there is no frame “f1”'],
    [
      'a frame in another folder',
      jug([], { frames: [{ id: 'f1', name: 'x', file: '../x.png' }] }),
      '$.frames[0].file: must be a file name without folders'
    ],
    ['a newer format', { ...jug(), kromba: 2 }, 'is of format 2'],
    [
      'a look',
      { kromba: 1, kind: 'look', name: 'x', steps: [] },
      '$.kind: this is a look, where a document is expected'
    ],
    ['no name', { ...jug(), name: undefined }, '$.name: is missing'],
    ['a list', [], '$: must be an object'],
    [
      'a mask source of no kind',
      jug([], { masks: [{ id: 'm', name: 'm', mask: { terms: [{ source: { kind: 'magic' } }] } }] }),
      '$.masks[0].mask.terms[0].source.kind'
    ]
  ])('refuses %s with its path', (_, json, message) => {
    expect(() => parseDocument(json)).toThrow(DocumentError);
    expect(() => parseDocument(json)).toThrow(message);
  });

  it('refuses pictures that refer to each other in a circle, by name', () => {
    const from = (picture: string): object => [{ from: { picture }, channel: 'rgb.r', weight: 1 }];
    const compose = (of: string): object => ({ kind: 'compose', r: from(of), g: from(of), b: from(of) });
    const pictures = [
      { id: 'a', name: 'Warm', head: compose('b') },
      { id: 'b', name: 'Cool', head: compose('a') }
    ];
    expect(() => parseDocument(jug([], { pictures }))).toThrow('in a circle: “Warm” → “Cool” → “Warm”');
  });

  it('refuses text that is not JSON', () =>
    expect(() => readDocument('{"kromba": 1,')).toThrow('This is not JSON'));

  it('finds a picture by name, and says which there are', () => {
    const document = parseDocument(jug());
    expect(pictureNamed(document, 'Jug').id).toBe('p1');
    expect(() => pictureNamed(document, 'Bowl')).toThrow(
      'There is no picture “Bowl” in “Jug under lamps”. It has: “Jug”.'
    );
  });

  it('reads the floor of faint detail under its earlier name too', () => {
    const params = (given: object): unknown =>
      parseDocument(jug([step({ op: 'detail', params: given })])).pictures[0].steps[0].params;
    expect(params({ smoothing: 0.2 })).toEqual(params({ floor: 0.2 }));
    expect(() => params({ smoothing: 3 })).toThrow('params.floor: must be at most 0.5');
    // The newer one counts where a history has left both.
    expect(params({ smoothing: 0.2, floor: 0.1 })).toEqual(params({ floor: 0.1 }));
  });

  it('reads a look', () => {
    expect(parseLook({ kromba: 1, kind: 'look', name: 'Cool', steps: [step()] }).steps).toHaveLength(1);
  });
});
