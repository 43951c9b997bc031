/** One number of a step, as the panel shows it. */
export interface Control {
  readonly key: string;
  readonly label: string;
  readonly unit: '%' | 'px' | '°' | '';
  readonly min: number;
  readonly max: number;
  readonly least?: number;
  readonly most?: number;
  readonly step?: number;
  readonly digits?: number;
  readonly log?: boolean;
  /** What one shown unit is worth in the parameter: 0.01 where a part is shown in %. */
  readonly worth?: number;
  /** One number for all channels, or one for each. */
  readonly each?: boolean;
}

const radius = (min: number, max: number): Control => ({
  key: 'radius',
  label: 'radius',
  unit: 'px',
  min,
  max,
  log: true,
  step: 1,
  digits: 1
});

/** The numbers of the ops whose panel is nothing but a list of them. */
export const controls: Readonly<Record<string, readonly Control[]>> = {
  blur: [radius(0, 100)],
  sharpen: [
    { ...radius(0.2, 100), step: 0.1 },
    { key: 'amount', label: 'amount', unit: '%', min: 0, max: 300, most: 500 },
    { key: 'threshold', label: 'threshold', unit: '%', min: 0, max: 20, most: 100, worth: 0.01, step: 0.1 }
  ],
  smooth: [
    radius(0, 100),
    {
      key: 'tolerance',
      label: 'tolerance',
      unit: '%',
      min: 0,
      max: 50,
      most: 200,
      worth: 0.01,
      each: true
    }
  ],
  local: [radius(1, 100), { key: 'amount', label: 'amount', unit: '%', min: -100, max: 200, most: 400 }],
  detail: [
    { key: 'amount', label: 'amount', unit: '%', min: 0, max: 200, each: true },
    radius(2, 100),
    { key: 'floor', label: 'floor', unit: '%', min: 0.05, max: 10, most: 50, worth: 0.01, step: 0.1 }
  ]
};

/** Words under a panel that has nothing, or little, to set. */
export const remarks: Readonly<Record<string, string>> = {
  equalize: 'Every tone takes an equal share of the picture. Fade it under Blend.',
  invert: 'Each channel of On is turned over about its middle: a and b stay neutral where they are neutral.',
  detail: 'What is fainter than the floor is left alone, so that noise is not raised.',
  smooth: 'What differs by less than the tolerance is evened out; stronger edges stay.',
  local: 'Strong edges stay as they are, so that no halo grows beside them.'
};
