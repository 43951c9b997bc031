<script lang="ts">
  import Amount from './Amount.svelte';
  import type { PanelProps } from './panels';

  interface Props extends Pick<PanelProps, 'session' | 'step'> {
    label?: string;
    name?: string;
  }
  let { session, step, label = 'opacity', name = 'Opacity' }: Props = $props();
</script>

<Amount
  {label}
  {name}
  value={100 * step.blend.opacity}
  neutral={100}
  min={0}
  max={100}
  oninput={(v) => session.changeStep(name, (draft) => (draft.blend.opacity = v / 100), 'opacity')}
  onend={() => session.endGesture()}
/>
