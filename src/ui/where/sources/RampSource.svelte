<script lang="ts">
  import { arrowGroup } from '../../shell/arrow-group';
  import type { SourceProps } from './controls';

  let { source, set }: SourceProps<'ramp'> = $props();
</script>

<div class="row" role="radiogroup" {@attach arrowGroup} aria-label="Shape of the ramp">
  {#each ['straight', 'round'] as const as shape (shape)}
    <button
      class="tool raised"
      role="radio"
      aria-checked={source.shape === shape}
      onclick={() => set('Shape of the ramp', (s) => (s.shape = shape))}>{shape}</button
    >
  {/each}
</div>
<p class="quiet">Full at the filled handle on the picture, nothing at the open one.</p>

<style>
  p {
    margin: 4px 0;
    font-size: 12px;
  }
</style>
