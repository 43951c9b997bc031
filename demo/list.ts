/** One sample document of Skerry Kiln, and what is wrong with its picture. */
export interface SampleInfo {
  readonly id: string;
  readonly title: string;
  readonly note: string;
  /** Its frames; several are exposures of one scene. */
  readonly files: readonly string[];
  /** FITS frames, and documents of them, are made at set-up, the others come with the sources. */
  readonly format: 'jpeg' | 'png' | 'fits' | 'kromba';
}

export const samples: readonly SampleInfo[] = [
  {
    id: 'jug-under-lamps',
    title: 'Jug under lamps',
    files: ['jug-under-lamps.png'],
    format: 'png',
    note: 'A rose lamp from one side, daylight from the other. The jug should be white.'
  },
  {
    id: 'quench-tank',
    title: 'Quench tank',
    files: ['quench-tank.jpg'],
    format: 'jpeg',
    note: 'Shot through water: red has almost no signal.'
  },
  {
    id: 'drying-yard',
    title: 'Drying yard',
    files: ['drying-yard.jpg'],
    format: 'jpeg',
    note: 'Near-infrared: all reddish violet. Leaves should be pale, the sky dark.'
  },
  {
    id: 'old-print',
    title: 'Old print',
    files: ['old-print.jpg'],
    format: 'jpeg',
    note: 'A faded, red-shifted scan of a print. The cloth on the table is white.'
  },
  {
    id: 'old-print-two',
    title: 'Old print, the second',
    files: ['old-print-two.jpg'],
    format: 'jpeg',
    note: 'From the same drawer, faded the same way. What helps the first helps this one.'
  },
  {
    id: 'glaze-tiles',
    title: 'Glaze tiles',
    files: ['glaze-tiles.jpg'],
    format: 'jpeg',
    note: 'Sixty glazes, a grey scale and a clay hand, in even light: for looks and masks.'
  },
  {
    id: 'woven-cloth',
    title: 'Woven cloth',
    files: ['woven-cloth.jpg'],
    format: 'jpeg',
    note: 'False colours in bands over grey weave. The ribbon’s red is real.'
  },
  {
    id: 'harbour-in-haze',
    title: 'Harbour in haze',
    files: ['harbour-in-haze.jpg'],
    format: 'jpeg',
    note: 'Flat light: little contrast in the colours together, much in one channel.'
  },
  {
    id: 'workshop-window',
    title: 'Workshop window',
    files: ['workshop-window-dark.jpg', 'workshop-window.jpg', 'workshop-window-bright.jpg'],
    format: 'jpeg',
    note: 'Three exposures, two stops apart, of a dark room with a bright window. One has moved a little.'
  },
  {
    id: 'clay-figure',
    title: 'Clay figure',
    files: ['clay-figure.jpg'],
    format: 'jpeg',
    note: 'A head of unglazed clay beside a window, for dark portraits out of one channel.'
  },
  {
    id: 'lantern',
    title: 'Lantern',
    files: ['lantern-s.fits', 'lantern-h.fits', 'lantern-o.fits'],
    format: 'fits',
    note: 'A nebula through three narrow filters: linear, nearly black, with uneven sky and lines of the sensor.'
  },
  {
    id: 'quern',
    title: 'Quern',
    files: ['quern-l.fits', 'quern-r.fits', 'quern-g.fits', 'quern-b.fits', 'quern-h.fits'],
    format: 'fits',
    note: 'A galaxy through five filters, each with a gradient of its own. Lightness, colour, and the red of its hydrogen.'
  },
  {
    id: 'lantern-finished',
    title: 'Lantern, finished',
    files: ['lantern-finished.kromba'],
    format: 'kromba',
    note: 'The same night worked through: cleaned, matched, put together in two ways, balanced, stretched, reined in.'
  },
  {
    id: 'quern-finished',
    title: 'Quern, finished',
    files: ['quern-finished.kromba'],
    format: 'kromba',
    note: 'A quiet lightness out of four frames, colour without gradients, and its hydrogen laid into red.'
  }
];

/** Whether a sample's files are made at set-up. */
export const isMade = ({ format }: Pick<SampleInfo, 'format'>): boolean =>
  format === 'fits' || format === 'kromba';

/** Name of a sample's small picture for the light table. */
export const smallFile = ({ id }: Pick<SampleInfo, 'id'>): string => `${id}.small.jpg`;
