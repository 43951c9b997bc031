/** One sample document of Skerry Kiln, and what is wrong with its picture. */
export interface SampleInfo {
  readonly id: string;
  readonly title: string;
  readonly note: string;
  readonly file: string;
  readonly format: 'jpeg' | 'png';
}

export const samples: readonly SampleInfo[] = [
  {
    id: 'jug-under-lamps',
    title: 'Jug under lamps',
    file: 'jug-under-lamps.png',
    format: 'png',
    note: 'A rose lamp from one side, daylight from the other. The jug should be white.'
  },
  {
    id: 'quench-tank',
    title: 'Quench tank',
    file: 'quench-tank.jpg',
    format: 'jpeg',
    note: 'Shot through water: red has almost no signal.'
  },
  {
    id: 'drying-yard',
    title: 'Drying yard',
    file: 'drying-yard.jpg',
    format: 'jpeg',
    note: 'Near-infrared: all reddish violet. Leaves should be pale, the sky dark.'
  },
  {
    id: 'old-print',
    title: 'Old print',
    file: 'old-print.jpg',
    format: 'jpeg',
    note: 'A faded, red-shifted scan of a print. The cloth on the table is white.'
  },
  {
    id: 'old-print-two',
    title: 'Old print, the second',
    file: 'old-print-two.jpg',
    format: 'jpeg',
    note: 'From the same drawer, faded the same way. What helps the first helps this one.'
  },
  {
    id: 'glaze-tiles',
    title: 'Glaze tiles',
    file: 'glaze-tiles.jpg',
    format: 'jpeg',
    note: 'Sixty glazes, a grey scale and a clay hand, in even light: for looks and masks.'
  },
  {
    id: 'woven-cloth',
    title: 'Woven cloth',
    file: 'woven-cloth.jpg',
    format: 'jpeg',
    note: 'False colours in bands over grey weave. The ribbon’s red is real.'
  },
  {
    id: 'harbour-in-haze',
    title: 'Harbour in haze',
    file: 'harbour-in-haze.jpg',
    format: 'jpeg',
    note: 'Flat light: little contrast in the colours together, much in one channel.'
  }
];

/** Name of a sample's small picture for the light table. */
export const smallFile = ({ id }: SampleInfo): string => `${id}.small.jpg`;
