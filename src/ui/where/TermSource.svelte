<script lang="ts">
  import { untrack } from 'svelte';
  import { Newest } from '../bench/newest';
  import { Select, SelectItem } from 'carbon-components-svelte';
  import Eyedropper from 'carbon-icons-svelte/lib/Eyedropper.svelte';
  import Close from 'carbon-icons-svelte/lib/Close.svelte';
  import { channelOf, channels } from '$core/colour';
  import { maskOf, type MaskSource, type MaskTerm } from '$core/document';
  import { labOf, rgbOfLab } from '$core/measure/difference';
  import { cssColour, shortName, swatch } from '../channel-colour';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import PromptSelect from '../shell/PromptSelect.svelte';
  import Amount from '../work-pane/Amount.svelte';
  import { areaPlaces, meanOfReadings } from './area';
  import ReferenceSelect from './ReferenceSelect.svelte';
  import { arrowGroup } from '../shell/arrow-group';

  let { session, bench, term }: { session: Session; bench: BenchState; term: MaskTerm } = $props();

  const masks = $derived(bench.masks);
  const source = $derived(term.source);
  const end = (): void => session.endGesture();

  function set(label: string, change: (source: MaskSource) => void, gesture?: string): void {
    masks.changeTerm(label, (t) => change(t.source), gesture);
  }

  const newest = new Newest('the colour that was picked');
  const PICK = 'colour of a mask';
  /** Takes a colour from the picture: of a click, or the mean of a drag; into this term or a new one beside it. */
  function pick(another: boolean): void {
    const take = (rgb: readonly number[] | null): void => {
      if (!rgb) return;
      const to = labOf(rgb, session.encoding).map((v) => Math.round(v * 10) / 10) as [number, number, number];
      if (!another) set('Pick a colour', (s) => s.kind === 'distance' && (s.to = to));
      else if (source.kind === 'distance') {
        const more = { ...(term.curve && { curve: term.curve }), combine: 'max' as const };
        const [added] = maskOf({ ...source, to }, more).terms;
        const at = masks.chosen + 1;
        masks.change('Add a colour', (m) => void m.terms.splice(at, 0, added));
        masks.termAt = at;
      }
    };
    bench.hand.pick({
      id: `${PICK}${another ? ', another' : ''}`,
      label: another ? 'Click or drag: one more colour' : 'Click or drag: the colour to be near to',
      pick: (spot) =>
        newest.ask(async () => take((await bench.readInput([{ ...spot.onFrame, size: 5 }]))[0])),
      area: (from, to) =>
        newest.ask(async () => take(meanOfReadings(await bench.readInput(areaPlaces(from, to)))))
    });
  }
  // A distance that was just begun is one to a colour: the next click says to which.
  $effect(() => {
    if (source.kind !== 'distance' || !masks.picks) return;
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
  const space = $derived(source.kind === 'distance' ? SPACES.find((s) => s.id === source.space)! : SPACES[0]);
  const free = $derived(source.kind === 'mix' ? channels.filter((c) => !(c.id in source.weights)) : []);
</script>

<div class="source">
  {#if source.kind === 'channel'}
    <Select
      size="sm"
      labelText="Channel"
      selected={source.channel}
      on:update={({ detail }) => {
        const id = String(detail);
        if (id !== source.channel)
          set(`Mask from ${channelOf(id).name}`, (s) => s.kind === 'channel' && (s.channel = id));
      }}
    >
      {#each channels as c (c.id)}<SelectItem value={c.id} text={`${c.sign} · ${c.name}`} />{/each}
    </Select>
    <ReferenceSelect
      {session}
      label="Of"
      own="this step’s input"
      value={source.of ?? null}
      onchange={(of) =>
        set('Mask from another picture', (s) => {
          if (s.kind !== 'channel') return;
          if (of) s.of = of;
          else delete s.of;
        })}
    />
  {:else if source.kind === 'mix'}
    {#each Object.entries(source.weights) as [id, w] (id)}
      <div class="weight">
        <Amount
          label={shortName(id)}
          name={`Mask from ${channelOf(id).name}`}
          value={100 * (w ?? 0)}
          neutral={0}
          least={-5000}
          most={5000}
          colour={swatch(id)}
          oninput={(v) =>
            set('Mix of a mask', (s) => s.kind === 'mix' && (s.weights[id] = v / 100), `mix ${id}`)}
          onend={end}
        />
        <button
          class="tool"
          aria-label={`Leave out ${channelOf(id).name}`}
          onclick={() => set('Leave a channel out', (s) => s.kind === 'mix' && delete s.weights[id])}
          ><Close size={16} /></button
        >
      </div>
    {/each}
    <Amount
      label="constant"
      name="Constant of the mix"
      value={100 * source.constant}
      neutral={0}
      least={-5000}
      most={5000}
      oninput={(v) => set('Constant', (s) => s.kind === 'mix' && (s.constant = v / 100), 'mix constant')}
      onend={end}
    />
    <PromptSelect
      label="Add a channel"
      items={free.map((c) => ({ id: c.id, title: `${c.sign} · ${c.name}` }))}
      onchoose={(id) => set('Add a channel', (s) => s.kind === 'mix' && (s.weights[id] = 0))}
    />
  {:else if source.kind === 'distance'}
    <div class="row">
      <span class="patch" style:background={cssColour(rgbOfLab(source.to, 'coded'))} aria-hidden="true"
      ></span>
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
          if (s.kind !== 'distance') return;
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
      oninput={(v) => set('Range', (s) => s.kind === 'distance' && (s.range = v), 'range')}
      onend={end}
    />
  {:else if source.kind === 'toward'}
    <Amount
      label="hue"
      name="Hue of the direction"
      unit="°"
      value={source.hue}
      neutral={40}
      min={0}
      max={360}
      oninput={(v) => set('Hue', (s) => s.kind === 'toward' && (s.hue = v), 'hue')}
      onend={end}
    />
    <button
      class="tool raised"
      aria-pressed={source.across}
      title="The direction at right angles to the hue"
      onclick={() => set('Across', (s) => s.kind === 'toward' && (s.across = !s.across))}
      >Across the hue</button
    >
  {:else if source.kind === 'paint'}
    <div class="row">
      <button
        class="tool raised"
        disabled={source.strokes.length === 0}
        onclick={() => set('Take back a stroke', (s) => s.kind === 'paint' && s.strokes.pop())}
        >Take the last stroke back</button
      >
    </div>
  {:else if source.kind === 'ramp'}
    <div class="row" role="radiogroup" {@attach arrowGroup} aria-label="Shape of the ramp">
      {#each ['straight', 'round'] as const as shape (shape)}
        <button
          class="tool raised"
          role="radio"
          aria-checked={source.shape === shape}
          onclick={() => set('Shape of the ramp', (s) => s.kind === 'ramp' && (s.shape = shape))}
          >{shape}</button
        >
      {/each}
    </div>
    <p class="quiet">Full at the filled handle on the picture, nothing at the open one.</p>
  {:else}
    <Select
      size="sm"
      labelText="Named mask"
      selected={source.id}
      on:update={({ detail }) => {
        const id = String(detail);
        if (id !== source.id) set('Another named mask', (s) => s.kind === 'mask' && (s.id = id));
      }}
    >
      {#each session.document.masks as { id, name } (id)}<SelectItem value={id} text={name} />{/each}
    </Select>
  {/if}
</div>

<style>
  .source {
    margin: 8px 0;
  }
  .row {
    display: flex;
    gap: 6px;
    align-items: center;
    margin-bottom: 6px;
  }
  .patch {
    width: 40px;
    height: 26px;
    border: 1px solid #000;
  }
  .weight {
    display: grid;
    grid-template-columns: 1fr 28px;
  }
  p {
    margin: 4px 0;
    font-size: 12px;
  }
</style>
