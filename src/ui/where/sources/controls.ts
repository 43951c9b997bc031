import type { Component } from 'svelte';
import type { MaskSource, MaskTerm } from '$core/document';
import type { Kind } from '$core/mask/sources';
import type { BenchState } from '../../bench/bench.svelte';
import type { Session } from '../../bench/session.svelte';
import ChannelSource from './ChannelSource.svelte';
import DistanceSource from './DistanceSource.svelte';
import MaskSourceControls from './MaskSource.svelte';
import MixSource from './MixSource.svelte';
import PaintSource from './PaintSource.svelte';
import RampSource from './RampSource.svelte';
import ScaleSource from './ScaleSource.svelte';
import StarsSource from './StarsSource.svelte';
import TowardSource from './TowardSource.svelte';

type Of<K extends Kind> = Extract<MaskSource, { kind: K }>;

export interface SourceProps<K extends Kind> {
  readonly session: Session;
  readonly bench: BenchState;
  readonly term: MaskTerm;
  readonly source: Of<K>;
  set(label: string, change: (source: Of<K>) => void, gesture?: string): void;
}

const controls: { readonly [K in Kind]: Component<SourceProps<K>> } = {
  channel: ChannelSource,
  mix: MixSource,
  distance: DistanceSource,
  toward: TowardSource,
  scale: ScaleSource,
  stars: StarsSource,
  paint: PaintSource,
  ramp: RampSource,
  mask: MaskSourceControls
};

/** The controls of a kind of source. */
export const controlsFor = (kind: Kind): Component<SourceProps<Kind>> =>
  controls[kind] as unknown as Component<SourceProps<Kind>>;
