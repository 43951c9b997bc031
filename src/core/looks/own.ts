import { parseLook, type Look } from '../document';

/** What is said of one of Kromba's own looks. */
interface Given {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly steps: readonly {
    readonly op: string;
    readonly params?: object;
    readonly [part: string]: unknown;
  }[];
}

const given: readonly Given[] = [
  {
    id: 'lamp-out',
    name: 'Lamp out',
    note: 'A coloured lamp off a scene: the whole of it is greyed, its lights are white again.',
    steps: [
      { op: 'balance', params: { method: 'grey' } },
      { op: 'levels', params: { auto: { clip: 0.1 } }, on: { model: 'lab', channels: ['l'] } }
    ]
  },
  {
    id: 'out-of-the-water',
    name: 'Out of the water',
    note: 'Red, which water has swallowed, is made of green; then every channel is given its full range.',
    steps: [
      { op: 'mix', params: { rows: { r: { r: 1.1, g: 0.6, b: -0.15 }, b: { b: 0.8, g: 0.1 } } } },
      { op: 'levels', params: { auto: { clip: 0.4 } } }
    ]
  },
  {
    id: 'old-glue',
    name: 'Old glue off',
    note: 'A faded, reddened print: its channels are stretched to their ends, its colours come back a little.',
    steps: [
      { op: 'levels', params: { auto: { clip: 0.3 } } },
      { op: 'balance', params: { method: 'bright' } },
      { op: 'colour', params: { saturation: 18, vibrance: 20 } }
    ]
  },
  {
    id: 'amber-pane',
    name: 'Amber pane',
    note: 'Black and white as through amber glass: skin and clay are light, skies are deep.',
    steps: [
      { op: 'mono', params: { weights: { 'rgb.r': 0.72, 'rgb.g': 0.42, 'rgb.b': -0.14 } } },
      { op: 'levels', params: { auto: { clip: 0.2 } } }
    ]
  },
  {
    id: 'ember-pane',
    name: 'Ember pane',
    note: 'Black and white as through deep red glass: blue is nearly black.',
    steps: [
      { op: 'mono', params: { weights: { 'rgb.r': 1.3, 'rgb.g': -0.08, 'rgb.b': -0.22 } } },
      {
        op: 'curves',
        params: {
          curves: {
            l: [
              [0, 0],
              [0.25, 0.19],
              [0.75, 0.8],
              [1, 1]
            ]
          }
        },
        on: { model: 'lab', channels: ['l'] }
      }
    ]
  },
  {
    id: 'sea-pane',
    name: 'Sea pane',
    note: 'Black and white out of green and blue: reds are dark, foliage and water are clear.',
    steps: [
      { op: 'mono', params: { weights: { 'rgb.r': 0.05, 'rgb.g': 0.6, 'rgb.b': 0.35 } } },
      { op: 'levels', params: { auto: { clip: 0.2 } } }
    ]
  },
  {
    id: 'soot-and-ochre',
    name: 'Soot and ochre',
    note: 'Two colours over the tones: cold soot in the shadows, ochre in the lights.',
    steps: [
      {
        op: 'tint',
        params: {
          stops: [
            { at: 0, rgb: [0.03, 0.04, 0.07] },
            { at: 0.45, rgb: [0.42, 0.36, 0.33] },
            { at: 1, rgb: [1, 0.95, 0.83] }
          ]
        },
        blend: { opacity: 0.85 }
      }
    ]
  },
  {
    id: 'turned-kiln',
    name: 'Turned kiln',
    note: 'Red and blue change places; lightness stays as it was.',
    steps: [{ op: 'mix', params: { rows: { r: { b: 1 }, b: { r: 1 } } }, blend: { mode: 'color' } }]
  },
  {
    id: 'pale-leaves',
    name: 'Pale leaves',
    note: 'For near-infrared: red and blue change places, leaves turn pale, the sky turns blue and deep.',
    steps: [
      { op: 'balance', params: { method: 'grey' } },
      { op: 'mix', params: { rows: { r: { b: 1 }, b: { r: 1 } } } },
      { op: 'levels', params: { auto: { clip: 0.3 } }, on: { model: 'lab', channels: ['l'] } },
      {
        op: 'colour',
        params: { saturation: -25, bands: [{ centre: 90, width: 90, saturation: -40, lightness: 12 }] }
      }
    ]
  },
  {
    id: 'head-by-the-window',
    name: 'Head by the window',
    note: 'A dark portrait out of the blue channel: skin is deep and has all its relief.',
    steps: [
      { op: 'mono', params: { weights: { 'rgb.b': 0.9, 'rgb.g': 0.1 } } },
      { op: 'levels', params: { auto: { clip: 0.1 } } },
      {
        op: 'curves',
        params: {
          curves: {
            l: [
              [0, 0],
              [0.5, 0.4],
              [1, 0.97]
            ]
          }
        },
        on: { model: 'lab', channels: ['l'] }
      }
    ]
  },
  {
    id: 'haze-lifted',
    name: 'Haze lifted',
    note: 'Flat light: lightness is given its range and its local contrast, colours follow.',
    steps: [
      { op: 'levels', params: { auto: { clip: 0.3 } }, on: { model: 'lab', channels: ['l'] } },
      { op: 'local', params: { radius: 60, amount: 60 }, on: { model: 'lab', channels: ['l'] } },
      { op: 'colour', params: { saturation: 15 } }
    ]
  },
  {
    id: 'grey-weave',
    name: 'Grey weave',
    note: 'False colour on fine weave: colour alone is smoothed, the threads stay as they are.',
    steps: [
      { op: 'smooth', params: { radius: 18, tolerance: 0.2 }, on: { model: 'lab', channels: ['a', 'b'] } },
      { op: 'colour', params: { saturation: -20 } }
    ]
  }
];

/** Looks that come with Kromba, each made for one of its samples. */
export const ownLooks: readonly { readonly id: string; readonly look: Look }[] = given.map(
  ({ id, name, note, steps }) => ({
    id,
    look: parseLook({
      ...{ kromba: 1, kind: 'look', name, note },
      steps: steps.map((step, i) => ({ id: `s${i + 1}`, params: {}, ...step }))
    })
  })
);
