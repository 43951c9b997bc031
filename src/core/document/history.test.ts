import { expect, it } from 'vitest';
import { parseDocument } from '.';
import { change, redone, undone } from './history';

const jug = parseDocument({
  kromba: 1,
  kind: 'document',
  name: 'Jug',
  frames: [{ id: 'f1', name: 'jug', file: 'jug.png' }],
  pictures: [
    {
      id: 'p1',
      name: 'Jug',
      head: { kind: 'frame', frame: 'f1' },
      steps: [{ id: 's1', op: 'mix', params: {} }]
    }
  ]
});

it('goes back and forth, also after being stored as JSON', () => {
  const renamed = change(jug, 'Rename', (d) => void (d.name = 'Bowl'));
  const switched = change(renamed.document, 'Mix off', (d) => void (d.pictures[0].steps[0].enabled = false));
  const [first, second] = JSON.parse(JSON.stringify([renamed.entry, switched.entry]));
  expect(undone(switched.document, second)).toEqual(renamed.document);
  expect(undone(undone(switched.document, second), first)).toEqual(jug);
  expect(redone(redone(jug, first), second)).toEqual(switched.document);
});

it('makes no entry where nothing changed', () => {
  expect(change(jug, 'Rename', (d) => void (d.name = 'Jug')).entry).toBeNull();
});
