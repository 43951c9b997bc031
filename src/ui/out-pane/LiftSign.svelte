<script lang="ts">
  import type { ViewLift } from '../bench/lift.svelte';

  let { lift }: { lift: ViewLift } = $props();
</script>

<!-- What is seen is not what the values are: that is said where it is seen. -->
<div class="sign" role="group" aria-label="How the view is lifted">
  <span role="status">{lift.mode === 'more' ? 'Lifted more' : 'Lifted'} for the eye</span>
  <button
    class="tool"
    aria-pressed={lift.alone}
    title={lift.alone
      ? 'Each channel is lifted by its own sky: colours are not seen as they are'
      : 'The channels are lifted together, so that colours are seen as they are'}
    onclick={() => lift.turnAlone()}>{lift.alone ? 'channels each alone' : 'channels together'}</button
  >
  <button
    class="tool"
    aria-pressed={lift.held}
    title="Keep this lift for other pictures and steps, so that they can be compared"
    onclick={() => lift.turnHeld()}>{lift.held ? 'held' : 'hold'}</button
  >
</div>

<style>
  .sign {
    position: absolute;
    bottom: 12px;
    left: 12px;
    display: flex;
    align-items: center;
    gap: 6px;
    padding: 2px 4px 2px 10px;
    background: rgb(20 20 20 / 85%);
    color: var(--k-bone);
    font-size: 12px;
  }
</style>
