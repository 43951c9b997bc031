<script lang="ts">
  import type { LiftBy } from '$core/path/lift';
  import type { ViewLift } from '../bench/lift.svelte';

  let { lift }: { lift: ViewLift } = $props();
  const MODES: readonly [LiftBy | 'off', string][] = [
    ['off', 'As it is'],
    ['lifted', 'Lifted'],
    ['more', 'Lifted more']
  ];
</script>

<select
  class="tool-choice"
  aria-label="View lift"
  title="Lifts a dark linear picture for the eye alone (K): steps, numbers and files do not know it"
  value={lift.mode}
  onchange={(event) => lift.choose(event.currentTarget.value as LiftBy | 'off')}
>
  {#each MODES as [value, title] (value)}<option {value}>{title}</option>{/each}
</select>
