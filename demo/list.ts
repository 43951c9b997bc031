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
  }
];

/** Name of a sample's small picture for the light table. */
export const smallFile = ({ id }: SampleInfo): string => `${id}.small.jpg`;
