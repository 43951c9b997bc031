<script lang="ts">
  import { untrack } from 'svelte';
  import type { PanelProps } from './panels';
  import TonesPart from './TonesPart.svelte';

  let { session, bench, step }: PanelProps = $props();

  $effect(() => untrack(() => bench.measurer.watch(['lum'])));
</script>

<TonesPart
  sides={[
    { key: 'under', title: 'Tones that come in' },
    { key: 'over', title: 'Tones it makes' }
  ]}
  tones={step.blend}
  pair={bench.measurer.histograms.get('lum')}
  onchange={(side, tones, gesture) =>
    session.changeStep('Limits', (draft) => (draft.blend[side] = tones), gesture)}
  onend={() => session.endGesture()}
/>
