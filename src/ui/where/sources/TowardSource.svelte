<script lang="ts">
  import Amount from '../../work-pane/Amount.svelte';
  import type { SourceProps } from './controls';

  let { source, set, session }: SourceProps<'toward'> = $props();
</script>

<Amount
  label="hue"
  name="Hue of the direction"
  unit="°"
  value={source.hue}
  neutral={40}
  min={0}
  max={360}
  oninput={(v) => set('Hue', (s) => (s.hue = v), 'hue')}
  onend={() => session.endGesture()}
/>
<button
  class="tool raised"
  aria-pressed={source.across}
  title="The direction at right angles to the hue"
  onclick={() => set('Across', (s) => (s.across = !s.across))}>Across the hue</button
>
