<script lang="ts">
  import { untrack } from 'svelte';
  import { Select, SelectItem } from 'carbon-components-svelte';
  import Eyedropper from 'carbon-icons-svelte/lib/Eyedropper.svelte';
  import { maskOf } from '$core/document';
  import { labOf, rgbOfLab } from '$core/measure/difference';
  import { Newest } from '../../bench/newest';
  import { cssColour } from '../../channel-colour';
  import Amount from '../../work-pane/Amount.svelte';
  import { areaPlaces, meanOfReadings } from '../area';
  import type { SourceProps } from './controls';

  let { source, set, session, bench, term }: SourceProps<'distance'> = $props();

  const masks = $derived(bench.masks);
  const newest = new Newest('the colour that was picked');
  const PICK = 'colour of a mask';
  /** Takes a colour from the picture: of a click, or the mean of a drag; into this term or a new one beside it. */
  function pick(another: boolean): void {
    const take = (rgb: readonly number[] | null): void => {
      if (!rgb) return;
      const to = labOf(rgb, term.stretched ? 'coded' : session.cursor.encoding).map(
        (v) => Math.round(v * 10) / 10
      ) as [number, number, number];
      if (!another) set('Pick a colour', (s) => (s.to = to));
      else {
        const { curve, stretched } = term;
        const more = { ...(curve && { curve }), ...(stretched && { stretched }), combine: 'max' as const };
        const [added] = maskOf({ ...source, to }, more).terms;
        const at = masks.chosen + 1;
        masks.change('Add a colour', (m) => void m.terms.splice(at, 0, added));
        masks.termAt = at;
      }
    };
    const read = (spots: Parameters<typeof bench.readInput>[0]): ReturnType<typeof bench.readInput> =>
      bench.readInput(spots, term.stretched);
    bench.hand.pick({
      id: `${PICK}${another ? ', another' : ''}`,
      label: another ? 'Click or drag: one more colour' : 'Click or drag: the colour to be near to',
      pick: (spot) => newest.ask(async () => take((await read([{ ...spot.onFrame, size: 5 }]))[0])),
      area: (from, to) => newest.ask(async () => take(meanOfReadings(await read(areaPlaces(from, to)))))
    });
  }
  // A distance that was just begun is one to a colour: the next click says to which.
  $effect(() => {
    if (!masks.picks) return;
    masks.picks = false;
    untrack(() => pick(false));
  });
  $effect(() => () => {
    bench.hand.drop(PICK);
  });

  const SPACES = [
    { id: 'lab', title: 'LAB', range: 40, most: 200 },
    { id: 'ab', title: 'a and b only', range: 40, most: 200 },
    { id: 'oklab', title: 'Oklab', range: 0.3, most: 1 }
  ] as const;
  const space = $derived(SPACES.find((s) => s.id === source.space)!);
</script>

<div class="row">
  <span class="patch" style:background={cssColour(rgbOfLab(source.to, 'coded'))} aria-hidden="true"></span>
  <button class="tool raised" aria-pressed={bench.hand.picking?.id === PICK} onclick={() => pick(false)}
    ><Eyedropper size={16} /> Pick</button
  >
  <button
    class="tool raised"
    aria-pressed={bench.hand.picking?.id === `${PICK}, another`}
    onclick={() => pick(true)}>Add a colour</button
  >
</div>
<Select
  size="sm"
  labelText="Distance in"
  selected={source.space}
  on:update={({ detail }) => {
    const next = SPACES.find((s) => s.id === detail)!;
    if (next.id === source.space) return;
    set('Distance in another space', (s) => {
      s.range = (s.range / space.range) * next.range;
      s.space = next.id;
    });
  }}
>
  {#each SPACES as { id, title } (id)}<SelectItem value={id} text={title} />{/each}
</Select>
<Amount
  label="range"
  name="Range of the distance"
  unit=""
  value={source.range}
  neutral={space.range}
  min={space.most / 200}
  max={space.most}
  most={space.most * 2}
  log={space.id !== 'oklab'}
  step={space.id === 'oklab' ? 0.01 : 1}
  grain={space.most / 200}
  digits={3}
  oninput={(v) => set('Range', (s) => (s.range = v), 'range')}
  onend={() => session.endGesture()}
/>

<style>
  .patch {
    width: 40px;
    height: 26px;
    border: 1px solid #000;
  }
</style>
