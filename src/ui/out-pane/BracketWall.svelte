<script lang="ts">
  import { tick, untrack } from 'svelte';
  import type { Attachment } from 'svelte/attachments';
  import type { BenchState } from '../bench/bench.svelte';
  import { FEWEST, MOST_OF_TWO, MOST_VALUES, valuesTold } from '../bench/bracket.svelte';
  import { toldShort } from '../numbers';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Size } from '../viewer/viewport.svelte';
  import { arrowGroup } from '../shell/arrow-group';
  import { columnsFor } from './arrangement';

  let { bench }: { bench: BenchState } = $props();
  const { bracket, viewport } = $derived(bench);

  let stage = $state<Size>({ width: 1, height: 1 });
  let wrong = $state<readonly string[]>(['', '']);
  $effect(() => {
    void [bench.session.document, bench.outPlace, bracket.values];
    untrack(() => bracket.renew());
  });
  const two = $derived(bracket.numbers.length > 1);
  const columns = $derived(
    two ? bracket.values[0].length : columnsFor(bracket.all.length, viewport.picture, stage)
  );
  const most = $derived(two ? MOST_OF_TWO : MOST_VALUES);
  const now = $derived(bracket.numbers.map((number) => number.now()));

  /** The keys go on here: the arrows move among the pictures, Enter takes one. */
  const takeFocus: Attachment<HTMLElement> = (wall) => {
    void tick().then(() =>
      (wall.querySelector<HTMLElement>('.now') ?? wall.querySelector('button'))?.focus()
    );
  };

  let pressed: { x: number; y: number } | null = null;
  const STILL = 4;
  /** A drag moves the pictures and takes no value; a click by key has no place. */
  const wasDragged = ({ clientX, clientY, detail }: MouseEvent): boolean =>
    detail > 0 && pressed !== null && Math.hypot(clientX - pressed.x, clientY - pressed.y) >= STILL;

  const inWords = (values: readonly number[]): string =>
    values.map((v, i) => `${toldShort(v)}${unitOf(bracket.numbers[i].unit)}`).join(' · ');
  const unitOf = (unit: string): string => (unit === '' || unit === '°' ? unit : ` ${unit}`);
</script>

<div class="bracket">
  <div class="bar">
    {#each bracket.numbers as { name, unit }, i (name)}
      <label
        ><span class="name">{name}{unit ? `, ${unit}` : ''}</span>
        <input
          class="mono"
          class:wrong={wrong[i]}
          aria-invalid={wrong[i] !== ''}
          aria-label={`Values of ${name}`}
          title="Values, or from … to"
          value={valuesTold(bracket.values[i])}
          onchange={(event) => (wrong = wrong.with(i, bracket.type(i, event.currentTarget.value)))}
        /></label
      >
      <select
        class="tool-choice"
        aria-label={`How many values of ${name}`}
        value={bracket.values[i].length}
        onchange={(event) => bracket.count(i, Number(event.currentTarget.value))}
      >
        {#each { length: most - FEWEST + 1 } as _, k (k)}<option>{FEWEST + k}</option>{/each}
      </select>
      {#if wrong[i]}<span class="warn" role="status">{wrong[i]}</span>{/if}
    {/each}
    <span class="space"></span>
    {#if two}
      <button class="tool" onclick={() => bracket.leaveOne()}>First alone</button>
    {:else}<span class="quiet hint">another number’s label makes a grid</span>{/if}
    <button class="tool" title="Leave the number as it is (Esc)" onclick={() => bracket.end()}>End</button>
  </div>
  <div
    class="wall"
    role="group"
    aria-label="Values tried"
    {@attach arrowGroup}
    {@attach takeFocus}
    style:--columns={columns}
    bind:clientWidth={null, (width: number | undefined) => (stage = { ...stage, width: width || 1 })}
    bind:clientHeight={null, (height: number | undefined) => (stage = { ...stage, height: height || 1 })}
  >
    {#each bracket.all as tried (tried.key)}
      <button
        class="tried"
        class:now={tried.values.every((v, i) => v === now[i])}
        title="Take this value; drag to move the pictures, turn the wheel to come nearer"
        onpointerdown={(event) => (pressed = { x: event.clientX, y: event.clientY })}
        onclick={(event) => !wasDragged(event) && bracket.take(tried)}
      >
        <span class="picture">
          {#if tried.shown}
            <PictureView
              shown={{ ...tried.shown, view: bench.grey ? { channel: bench.channel } : 'colour' }}
              {viewport}
              role="twin"
              label={inWords(tried.values)}
              priority={2}
            />
          {/if}
        </span>
        <span class="mono value">{inWords(tried.values)}</span>
      </button>
    {/each}
  </div>
</div>

<style>
  .bracket {
    position: absolute;
    inset: 0;
    display: flex;
    flex-direction: column;
    background: var(--k-stage);
  }
  .bar {
    display: flex;
    flex: none;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 8px;
    padding: 4px 8px;
    background: var(--k-surface);
    border-bottom: 1px solid var(--k-line);
  }
  label {
    display: flex;
    align-items: center;
    gap: 8px;
    min-width: 0;
  }
  .name {
    overflow: hidden;
    max-width: 160px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  input {
    width: 190px;
    height: 24px;
    padding: 0 7px;
    border: 0;
    background: #2e2e2e;
    color: var(--k-text);
    font-size: 12px;
  }
  input.wrong {
    box-shadow: inset 0 0 0 2px var(--k-warn);
  }
  .warn {
    font-size: 12px;
  }
  .hint {
    font-size: 12px;
  }
  .space {
    flex: 1;
  }
  .wall {
    display: grid;
    flex: 1;
    grid-auto-rows: minmax(0, 1fr);
    grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
    gap: 4px;
    min-height: 0;
    padding: 4px;
  }
  .tried {
    display: flex;
    flex-direction: column;
    min-width: 0;
    min-height: 0;
    padding: 2px;
    border: 0;
    background: none;
    color: var(--k-text-quiet);
    font: inherit;
    cursor: pointer;
  }
  .tried:hover {
    background: #3a3833;
    color: var(--k-text);
  }
  .now {
    box-shadow: inset 0 0 0 1px var(--k-bone-dim);
    color: var(--k-text);
  }
  .picture {
    position: relative;
    flex: 1;
    min-height: 0;
  }
  .value {
    flex: none;
    height: 18px;
    font-size: 12px;
    text-align: center;
  }
</style>
