<script lang="ts">
  import Amount from './Amount.svelte';

  interface Props {
    /** Right and down, in full-size pixels. */
    shift: readonly [number, number];
    /** As far as the slider goes, and as far as may be typed. */
    max: number;
    most: number;
    onset: (index: 0 | 1, value: number) => void;
    onend: () => void;
  }
  let { shift, max, most, onset, onend }: Props = $props();

  const ways = [
    { label: 'right, px', name: 'Shift to the right', i: 0 },
    { label: 'down, px', name: 'Shift down', i: 1 }
  ] as const;
</script>

{#each ways as { label, name, i } (name)}
  <Amount
    {label}
    {name}
    unit=""
    value={shift[i]}
    neutral={0}
    min={-max}
    {max}
    least={-most}
    {most}
    step={0.1}
    grain={0.25}
    oninput={(v) => onset(i, v)}
    {onend}
  />
{/each}
