import 'fake-indexeddb/auto';
import { expect, it, vi } from 'vitest';
import { maskOf, parseDocument, stepSchema, type Step } from '$core/document';
import { randomStream, scattered } from '$core/random';
import { floatFrame, renderDocument } from '$core/testing';
import { Library } from '$storage/library';

vi.stubGlobal('window', globalThis);
vi.mock('../services', async () => ({
  tabs: (await import('../../storage/testing')).onlyTab(),
  keepFrames: vi.fn(),
  openFrame: vi.fn(() => Promise.resolve({ frame, notices: [], bytes: 9 }))
}));
const { Session } = await import('./session.svelte');
const { stayApart, takeStarsApart } = await import('./stars-apart');

const [WIDTH, HEIGHT] = [180, 120];
const random = randomStream(31);
/** A dark sky that grows lighter to the right, with noise and twelve stars. */
const sky = new Float32Array(WIDTH * HEIGHT).map(
  (_, i) => 0.05 + (0.02 * (i % WIDTH)) / WIDTH + 0.0008 * scattered(random)
);
for (let k = 0; k < 12; k++) {
  const [x, y] = [15 + 14 * k, 20 + ((k * 37) % 80)];
  for (let i = 0; i < sky.length; i++) {
    const r2 = ((i % WIDTH) - x) ** 2 + (Math.floor(i / WIDTH) - y) ** 2;
    sky[i] += (0.05 + 0.04 * k) * Math.exp(-r2 / 3.4);
  }
}
const frame = floatFrame(
  WIDTH,
  HEIGHT,
  Float32Array.from({ length: 3 * sky.length }, (_, i) => sky[Math.floor(i / 3)])
);

const masks = [
  {
    id: 'm',
    name: 'Right',
    mask: maskOf({ kind: 'ramp', shape: 'straight', from: [40, 0], to: [140, 0] } as never)
  },
  { id: 'n', name: 'Light', mask: maskOf({ kind: 'channel', channel: 'lum' }) }
];
async function taken(
  more: object
): Promise<{ before: Float32Array; after: Float32Array; without: Float32Array }> {
  const document = parseDocument({
    ...{ kromba: 1, kind: 'document', name: 'Stars', masks },
    frames: [{ id: 'f', name: 'f', file: 'f.fits', encoding: 'linear' }],
    pictures: [
      {
        ...{ id: 'p', name: 'Frame', head: { kind: 'frame', frame: 'f' } },
        steps: [
          { id: 'a', op: 'levels', params: { channels: { all: { white: 0.9 } } } },
          { id: 's', op: 'stars', params: {}, ...more }
        ]
      }
    ]
  } as never);
  const library = await Library.open(`stars-${JSON.stringify(more).length}-${Math.random()}`);
  const times = { createdAt: 1, modifiedAt: 1, position: 0, deletedAt: null };
  await library.add({
    id: 'd',
    document,
    files: { f: 'h' },
    selection: { picture: 'p', step: 's' },
    ...times
  });
  const session = await Session.open(library, 'd', new AbortController().signal);
  takeStarsApart(session, session.cursor.step!);
  const rendered = (doc: unknown): Float32Array => renderDocument(parseDocument(doc), { f: frame })[0];
  const whole = JSON.parse(JSON.stringify(session.document)) as typeof document;
  const without = structuredClone(document);
  (without.pictures[0].steps as Step[]).splice(1);
  expect(whole.pictures).toHaveLength(2);
  library.close();
  return { before: rendered(without), after: rendered(whole), without: rendered(document) };
}

it.each([
  ['plainly', {}],
  ['at half of their strength', { blend: { opacity: 0.5 } }],
  ['where a ramp has them', { where: masks[0].mask }],
  [
    'where a named ramp has them, faded',
    { where: maskOf({ kind: 'mask', id: 'm' }), blend: { opacity: 0.7 } }
  ],
  ['where it is light in what comes in', { where: maskOf({ kind: 'channel', channel: 'lum' }) }]
])('stars that are taken out %s are brought back to what came in', async (_, more) => {
  const { before, after, without } = await taken(more);
  let [changed, off] = [0, 0];
  before.forEach((v, i) => {
    if (Math.abs(without[i] - v) > 0.01) changed++;
    // What is added is held to 0 and more, as the format has it: where noise lies below what stands there without the star, that stays.
    off = Math.max(off, Math.abs(after[i] - Math.max(v, without[i])));
  });
  expect(changed).toBeGreaterThan(60);
  // Two floats of this size are added.
  expect(off).toBeLessThan(1e-6);
});

it('says why stars can’t be brought back as strongly as they were taken', () => {
  const why = (more: object): string | null =>
    stayApart({ masks } as never, stepSchema.parse({ id: 's', op: 'stars', params: {}, ...more }));
  expect(why({})).toBeNull();
  expect(why({ where: maskOf({ kind: 'mask', id: 'm' }) })).toBeNull();
  expect(why({ where: maskOf({ kind: 'mask', id: 'n' }) })).toMatch(/term “Channel”/);
  expect(why({ where: maskOf({ kind: 'mix', weights: { 'rgb.r': 1 } } as never) })).toMatch(
    /term “Mix of channels”/
  );
  expect(why({ blend: { mode: 'multiply' } })).toMatch(/Normal/);
  expect(why({ blend: { under: [0.1, 0.2, 1, 1] } })).toMatch(/limits/);
  expect(why({ on: { model: 'rgb', channels: ['r'] } })).toMatch(/R, G and B/);
});
