<script lang="ts">
  import { sourceKind } from '$core/mask/sources';
  import { MOST_STARS } from '$core/measure/star-find';
  import { controlAt } from '$core/ops/controls';
  import Amount from '../../work-pane/Amount.svelte';
  import type { SourceProps } from './controls';
  import OfPicture from './OfPicture.svelte';

  let { source, set, session }: SourceProps<'stars'> = $props();

  const numbers = (
    [
      ['threshold', 'Stars from, in sigma'],
      ['largest', 'Radius of the largest star'],
      ['grow', 'Grow stars by']
    ] as const
  ).map(([key, name]) => ({ key, name, control: controlAt(sourceKind('stars').schema, [key]) }));
</script>

{#each numbers as { key, name, control } (key)}
  <Amount
    {...control}
    {name}
    value={source[key] / control.worth}
    neutral={control.usual / control.worth}
    oninput={(v) => set(name, (s) => (s[key] = v * control.worth), key)}
    onend={() => session.endGesture()}
  />
{/each}
<p class="quiet">Of more than {MOST_STARS.toLocaleString('en')} stars the brightest are taken.</p>
<OfPicture {session} {source} {set} />
