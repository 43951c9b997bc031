import { expect, it } from 'vitest';
import { parseDocument } from '$core/document';
import type { StoredDocument } from '$storage/library';
import { pathId, pathsOf } from './paths';

const step = (id: string, op = 'invert', params: object = {}): object => ({ id, op, params });
const of = (picture: string, after?: string): object => ({
  kind: 'compose',
  ...Object.fromEntries(
    ['r', 'g', 'b'].map((c) => [
      c,
      [{ from: { picture, ...(after && { after }) }, channel: `rgb.${c}`, weight: 1 }]
    ])
  )
});
const frame = { kind: 'frame', frame: 'f' };
const stored = (id: string, name: string, pictures: object[]): StoredDocument => ({
  ...{ id, createdAt: 0, modifiedAt: 0, position: 0, selection: null, deletedAt: null },
  files: { f: 'hash of the frame', t: 'hash of the table' },
  document: parseDocument({
    ...{ kromba: 1, kind: 'document', name, pictures },
    frames: [{ id: 'f', name: 'jug', file: 'jug.png' }],
    tables: [{ id: 't', name: 'Kiln', file: 'kiln.cube' }]
  })
});

it('offers the path of every picture that has one, with its tables, and says what stays behind', () => {
  const [jug, version, laid, made] = pathsOf([
    stored('d1', 'Jug', [
      { id: 'p', name: 'Jug', head: frame, steps: [step('a'), step('b', 'lut', { table: 't' })] },
      { id: 'q', name: 'Cold', head: of('p', 'a'), steps: [step('c')] },
      { id: 'n', name: 'Nothing', head: frame, steps: [] }
    ]),
    stored('d2', 'Bowl', [
      {
        id: 'p',
        name: 'Laid',
        head: frame,
        steps: [step('a', 'lay', { from: { picture: 'q' } }), step('b')]
      },
      { id: 'q', name: 'Plain', head: frame, steps: [] },
      {
        ...{ id: 'r', name: 'Made', steps: [step('c')] },
        head: { kind: 'average', of: [{ picture: 'p' }, { picture: 'q' }] }
      }
    ])
  ]);
  expect(jug).toMatchObject({ id: pathId('d1', 'p'), title: 'Jug', told: [], wrong: '' });
  expect(jug.look.steps.map(({ id }) => id)).toEqual(['a', 'b']);
  expect(jug.files).toEqual({ t: 'hash of the table' });
  expect(version).toMatchObject({ title: 'Jug: Cold', files: {}, told: [], wrong: '' });
  expect(version.look.steps.map(({ id }) => id)).toEqual(['a', 'c']);
  expect(laid.look.steps.map(({ id }) => id)).toEqual(['b']);
  expect(laid.told.join()).toContain('takes from another picture: that is left out');
  expect(made.told.join()).toContain('The picture is made of several');
});

it('says why a path can’t be put on a file', () => {
  const [nothing] = pathsOf([
    stored('d', 'Bowl', [
      { id: 'p', name: 'Laid', head: frame, steps: [step('a', 'lay', { from: { picture: 'q' } })] },
      { id: 'q', name: 'Plain', head: frame, steps: [] }
    ])
  ]);
  expect(nothing.wrong).toBe('Nothing of it goes along.');
});
