<script lang="ts" generics="V extends string">
  import { RadioButton, RadioButtonGroup } from 'carbon-components-svelte';

  interface Props {
    legend: string;
    value: V;
    /** Each value, and what it is called. */
    values: readonly (readonly [V, string])[];
    upright?: boolean;
    onchange: (value: V) => void;
  }
  let { legend, value, values, upright = false, onchange }: Props = $props();
</script>

<RadioButtonGroup
  legendText={legend}
  orientation={upright ? 'vertical' : 'horizontal'}
  selected={value}
  on:change={({ detail }) => {
    if (detail && detail !== value) onchange(detail as V);
  }}
>
  {#each values as [one, title] (one)}<RadioButton value={one} labelText={title} />{/each}
</RadioButtonGroup>
