<script lang="ts">
  import { toFrame } from '$core/raster/geometry';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { onView } from '../viewer/overlay';
  import type { Spot } from '../viewer/spot';
  import type { Size } from '../viewer/viewport.svelte';
  import type { OutPlace } from '../bench/compare.svelte';
  import { columnsFor } from './arrangement';
  import Divider from './Divider.svelte';
  import BracketWall from './BracketWall.svelte';
  import DropPlace from './DropPlace.svelte';
  import KeptPlace from './KeptPlace.svelte';
  import PlaceTab from './PlaceTab.svelte';
  import WorkedPlace from './WorkedPlace.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    onSpot: (spot: Spot | null) => void;
    onSeen: (milliseconds: number) => void;
    onSettled: (milliseconds: number) => void;
  }
  let { session, bench, onSpot, onSeen, onSettled }: Props = $props();

  const { compare, viewport } = $derived(bench);
  const way = $derived(compare.several ? compare.way : 'together');

  let stage = $state<Size>({ width: 1, height: 1 });
  const columns = $derived(columnsFor(compare.places.length, viewport.picture, stage));
  /** Which places are in sight or about to be. */
  const there = $derived(
    way === 'together' || way === 'flip'
      ? compare.places.map((_, i) => i)
      : way === 'divider'
        ? compare.pair
        : [compare.selected]
  );

  /** Of two under the divider, what the line leaves of each. */
  function clipOf(i: number): string | undefined {
    if (way !== 'divider') return undefined;
    const at = 100 * compare.split;
    const first = i === compare.pair[0];
    if (compare.upright) return first ? `inset(0 ${100 - at}% 0 0)` : `inset(0 0 0 ${at}%)`;
    return first ? `inset(0 0 ${100 - at}% 0)` : `inset(${at}% 0 0 0)`;
  }

  $effect(() => {
    if (!compare.running || way !== 'flip') return;
    const timer = setInterval(() => compare.next(), 1000 / compare.rate);
    return () => clearInterval(timer);
  });
  $effect(() => compare.point(compare.pointer));

  /** What the pointer is over is read in every place, and in the one that is worked on as its picture lies. */
  function pointAt(spot: Spot | null): void {
    compare.pointer = spot;
    if (!spot) return onSpot(null);
    const { geometry } = session.cursor.at(bench.outPlace);
    const { x, y } = spot;
    if (x < geometry.width && y < geometry.height)
      onSpot({ x, y, onFrame: toFrame(geometry, { x: x + 0.5, y: y + 0.5 }) });
  }

  /** What is dropped onto a place takes it where there are several beside each other, else it gets one of its own. */
  function put(at: number, place: OutPlace): void {
    if (compare.several && way === 'together') compare.replace(at, place);
    else compare.add(place);
  }

  /** The pointer, as the places that it is not over show it. */
  const cross = $derived(
    compare.pointer &&
      onView(viewport.placement, viewport.view, { x: compare.pointer.x + 0.5, y: compare.pointer.y + 0.5 })
  );
</script>

<div
  class="places"
  data-way={way}
  style:--columns={columns}
  bind:clientWidth={null, (width: number | undefined) => (stage = { ...stage, width: width || 1 })}
  bind:clientHeight={null, (height: number | undefined) => (stage = { ...stage, height: height || 1 })}
>
  {#each compare.places as _, i (i)}
    {#if there.includes(i)}
      <div
        class="place"
        class:hidden={way === 'flip' && compare.flipped !== i}
        class:selected={compare.several && way === 'together' && compare.selected === i}
        style:clip-path={clipOf(i)}
      >
        {#if i === compare.selected}
          <WorkedPlace {session} {bench} minus={compare.minus} onSpot={pointAt} {onSeen} {onSettled} />
        {:else}
          <KeptPlace {bench} at={i} onSpot={pointAt} />
        {/if}
        <DropPlace type="picture" onput={(id) => put(i, { picture: id, at: 'end' })} />
        <DropPlace
          type="step"
          onput={(id) => put(i, { picture: session.cursor.picture.id, at: { after: id } })}
        />
        {#if way === 'together' && compare.several}
          {#if cross}<span class="cross" style:left="{cross.x}px" style:top="{cross.y}px"></span>{/if}
          <span class="tab"><PlaceTab {bench} at={i} /></span>
        {/if}
      </div>
    {/if}
  {/each}
  {#if bench.bracket.isOpen}<BracketWall {bench} />{/if}
  {#if way === 'divider'}<Divider {compare} />{/if}
  {#if compare.several && way !== 'together'}
    <div class="tabs">
      {#each compare.places as _, i (i)}<PlaceTab {bench} at={i} />{/each}
    </div>
  {/if}
</div>

<style>
  .places {
    position: absolute;
    inset: 0;
    overflow: hidden;
  }
  .place {
    position: absolute;
    inset: 0;
    overflow: hidden;
  }
  .hidden {
    visibility: hidden;
  }
  [data-way='together'] {
    display: grid;
    grid-auto-rows: 1fr;
    grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
    gap: 2px;
  }
  [data-way='together'] > .place {
    position: relative;
    inset: auto;
    min-height: 0;
  }
  .selected::after {
    content: '';
    position: absolute;
    inset: 0;
    box-shadow: inset 0 0 0 1px var(--k-bone-dim);
    pointer-events: none;
  }
  .tab,
  .tabs {
    position: absolute;
    top: 0;
    left: 0;
    display: flex;
    flex-wrap: wrap;
    gap: 2px;
    max-width: 100%;
    pointer-events: none;
  }
  .cross {
    position: absolute;
    width: 15px;
    height: 15px;
    translate: -50% -50%;
    background:
      linear-gradient(#fff, #fff) center / 1px 100% no-repeat,
      linear-gradient(#fff, #fff) center / 100% 1px no-repeat;
    filter: drop-shadow(0 0 1px #000);
    pointer-events: none;
  }
</style>
