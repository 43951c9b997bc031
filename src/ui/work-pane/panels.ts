import type { Component } from 'svelte';
import type { Step } from '$core/document';
import type { BenchState } from '../bench/bench.svelte';
import type { Session } from '../bench/session.svelte';
import BalancePanel from './BalancePanel.svelte';
import ChannelPanel from './ChannelPanel.svelte';
import ColourPanel from './ColourPanel.svelte';
import CurvesPanel from './CurvesPanel.svelte';
import DeconvolvePanel from './DeconvolvePanel.svelte';
import DenoisePanel from './DenoisePanel.svelte';
import GroupPanel from './GroupPanel.svelte';
import LayPanel from './LayPanel.svelte';
import LevelsPanel from './LevelsPanel.svelte';
import LinesPanel from './LinesPanel.svelte';
import LutPanel from './LutPanel.svelte';
import MatchPanel from './MatchPanel.svelte';
import MergePanel from './MergePanel.svelte';
import MixPanel from './MixPanel.svelte';
import MonoPanel from './MonoPanel.svelte';
import RegisterPanel from './RegisterPanel.svelte';
import ReinPanel from './ReinPanel.svelte';
import ScalesPanel from './ScalesPanel.svelte';
import SimplePanel from './SimplePanel.svelte';
import SkyPanel from './SkyPanel.svelte';
import StarsPanel from './StarsPanel.svelte';
import StraightenPanel from './StraightenPanel.svelte';
import StretchPanel from './StretchPanel.svelte';
import TintPanel from './TintPanel.svelte';
import WeighPanel from './WeighPanel.svelte';

export interface PanelProps {
  readonly session: Session;
  readonly bench: BenchState;
  readonly step: Step;
}

const own: Readonly<Record<string, Component<PanelProps>>> = {
  mix: MixPanel,
  balance: BalancePanel,
  levels: LevelsPanel,
  curves: CurvesPanel,
  colour: ColourPanel,
  mono: MonoPanel,
  channel: ChannelPanel,
  merge: MergePanel,
  lay: LayPanel,
  lut: LutPanel,
  weigh: WeighPanel,
  tint: TintPanel,
  stretch: StretchPanel,
  rein: ReinPanel,
  match: MatchPanel,
  sky: SkyPanel,
  lines: LinesPanel,
  scales: ScalesPanel,
  deconvolve: DeconvolvePanel,
  denoise: DenoisePanel,
  stars: StarsPanel,
  straighten: StraightenPanel,
  register: RegisterPanel,
  group: GroupPanel
};

/** The panel of an op: its own, or the list of the numbers that its schema shows. */
export const panelOf = (op: string): Component<PanelProps> => own[op] ?? SimplePanel;
