/** The frames of the sky as a finished document each: what the steps of a night's work come to. */

type Session = 'lantern' | 'quern';

const FILTERS: Readonly<Record<Session, readonly string[]>> = {
  lantern: ['S', 'H', 'O'],
  quern: ['L', 'R', 'G', 'B', 'H']
};

const step = (id: string, op: string, params: object = {}, more: object = {}): object => ({
  id,
  op,
  params,
  ...more
});
const part = (picture: string, channel = 'rgb.r', weight = 1): object => ({
  from: { picture },
  channel,
  weight
});
const spare = { above: 2, grow: 12, rounds: 3 };
const evenSky = (id: string): object => step(id, 'sky', { spare });

/** Colours a little stronger, darks a little deeper, where there is light and not in the empty sky. */
const finish = (prefix: string): object[] => [
  step(
    `${prefix}-curve`,
    'curves',
    {
      curves: {
        l: [
          [0, 0],
          [0.25, 0.2],
          [0.6, 0.66],
          [1, 1]
        ]
      }
    },
    { on: { model: 'lab', channels: ['l'] } }
  ),
  step(
    `${prefix}-colour`,
    'colour',
    { saturation: 35 },
    { where: { terms: [{ source: { kind: 'channel', channel: 'lum' } }], blur: 2 } }
  )
];

function lantern(): object[] {
  const tail = (prefix: string): object[] => [
    step(`${prefix}-match`, 'match'),
    step(`${prefix}-balance`, 'balance', { method: 'sky' }),
    step(`${prefix}-stretch`, 'stretch', { auto: { below: 2.8, target: 0.1 } }),
    step(`${prefix}-rein`, 'rein'),
    // Stars that are weak in green are left magenta.
    step(`${prefix}-rein-up`, 'rein', { side: 'under', amount: 0.7 }),
    ...finish(prefix)
  ];
  return [
    {
      ...{ id: 'sho', name: 'S-H-O' },
      head: { kind: 'compose', r: [part('S')], g: [part('H')], b: [part('O')] },
      steps: tail('sho')
    },
    {
      ...{ id: 'hoo', name: 'H-O-O' },
      head: { kind: 'compose', r: [part('H')], g: [part('O')], b: [part('O')] },
      steps: tail('hoo')
    },
    ...FILTERS.lantern.map((filter) => ({
      ...{ id: filter, name: filter, head: { kind: 'frame', frame: filter } },
      steps: [step(`${filter}-lines`, 'lines'), evenSky(`${filter}-sky`)]
    }))
  ];
}

function quern(): object[] {
  return [
    {
      ...{ id: 'done', name: 'With hydrogen' },
      head: {
        kind: 'compose',
        r: [part('rgb', 'rgb.r', 0.92), part('H', 'rgb.r', 0.4)],
        g: [part('rgb', 'rgb.g')],
        b: [part('rgb', 'rgb.b')],
        l: [part('light', 'rgb.g')]
      },
      steps: [
        step('done-balance', 'balance', { method: 'sky' }),
        step('done-stretch', 'stretch', { auto: { below: 2.8, target: 0.1 } }),
        ...finish('done')
      ]
    },
    {
      ...{ id: 'light', name: 'Lightness of all' },
      head: {
        ...{ kind: 'average', weighting: 'noise', match: true },
        of: ['L', 'R', 'G', 'B'].map((picture) => ({ picture }))
      },
      steps: [evenSky('light-sky')]
    },
    {
      ...{ id: 'rgb', name: 'R-G-B' },
      head: { kind: 'compose', r: [part('R')], g: [part('G')], b: [part('B')] },
      steps: [evenSky('rgb-sky'), step('rgb-balance', 'balance', { method: 'sky', white: 'stars' })]
    },
    ...FILTERS.quern.map((filter) => ({
      ...{ id: filter, name: filter, head: { kind: 'frame', frame: filter } },
      steps: filter === 'H' ? [step('H-lines', 'lines'), evenSky('H-sky')] : []
    }))
  ];
}

/** The document of a session, to be parsed; the files of its frames are those of the session's sample. */
export const finishedDocument = (id: Session): object => ({
  ...{ kromba: 1, kind: 'document', name: id === 'lantern' ? 'Lantern, finished' : 'Quern, finished' },
  frames: FILTERS[id].map((filter) => ({
    ...{ id: filter, name: filter, file: `${id}-${filter.toLowerCase()}.fits`, encoding: 'linear' }
  })),
  pictures: id === 'lantern' ? lantern() : quern()
});
