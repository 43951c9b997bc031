<script lang="ts">
  import StepAmount from './StepAmount.svelte';
  import { paramsOf } from '$core/ops/op';
  import { Select, SelectItem } from 'carbon-components-svelte';
  import Close from 'carbon-icons-svelte/lib/Close.svelte';
  import Draggable from 'carbon-icons-svelte/lib/Draggable.svelte';
  import View from 'carbon-icons-svelte/lib/View.svelte';
  import { untrack } from 'svelte';
  import { dndzone, TRIGGERS, type DndEvent } from 'svelte-dnd-action';
  import { isAllTones } from '$core/blend/limits';
  import { blendModes, type BlendMode } from '$core/blend/modes';
  import { channelOf, channels, wallModels } from '$core/colour';
  import type { Step } from '$core/document';
  import { type ChannelEntry, channel as op } from '$core/ops/channel';
  import { listStep } from '../arrows';
  import { dragging, DragOrder, type Dragged } from '../drag-order.svelte';
  import { swatch } from '../channel-colour';
  import ReferenceSelect from '../where/ReferenceSelect.svelte';
  import { referenceTold } from '../where/terms';
  import type { PanelProps } from './panels';
  import Strip from './Strip.svelte';
  import TonesPart from './TonesPart.svelte';

  let { session, bench, step }: PanelProps = $props();

  const { stack } = $derived(paramsOf(op, step));
  let at = $state(0);
  const chosen = $derived(Math.min(at, stack.length - 1));
  const entry = $derived<ChannelEntry | undefined>(stack[chosen]);
  const ten = wallModels.flatMap((m) =>
    m.channels.map(({ id, sign, name, ink }) => ({ id, sign, title: `Add ${name}${ink ? ' ink' : ''}` }))
  );
  /** Offered first; the others follow. */
  const FIRST: readonly BlendMode[] = ['normal', 'luminosity', 'soft-light', 'overlay', 'darken', 'lighten'];
  const modes = [...FIRST, ...blendModes.filter((m) => !FIRST.includes(m))];
  const modeTitle = (mode: string): string => mode[0].toUpperCase() + mode.slice(1).replace('-', ' ');

  const fresh = (channel: string): ChannelEntry => ({
    channel,
    mode: 'normal',
    opacity: 1,
    under: [0, 0, 1, 1],
    over: [0, 0, 1, 1],
    where: null
  });

  function change(label: string, recipe: (stack: ChannelEntry[]) => void, gesture?: string): void {
    session.changeParams(op, label, (p) => recipe(p.stack), gesture);
  }
  function changeEntry(label: string, recipe: (entry: ChannelEntry) => void, gesture?: string): void {
    const i = chosen;
    change(label, (list) => list[i] && recipe(list[i]), gesture && `${gesture} of entry ${i}`);
  }

  function add(channel: string): void {
    const count = stack.length;
    change(`Light from ${channelOf(channel).name}`, (list) => void list.push(fresh(channel)));
    at = count;
  }

  function remove(i: number): void {
    change('Remove a channel', (list) => void list.splice(i, 1));
    bench.solo = null;
  }

  /** The light that one channel alone would give, blended as the step is. */
  const alone = (channel: string): Step => ({ ...step, enabled: true, params: { stack: [fresh(channel)] } });

  // Entries have no ids of their own: their places stand for them while they are dragged.
  interface Item {
    id: number;
    entry: ChannelEntry;
  }
  const dragged = new DragOrder(() => stack.map((e, id): Item => ({ id, entry: e })));

  function finalize(event: CustomEvent<DndEvent<Dragged<Item>>>): void {
    const ids = dragged.end(event);
    if (event.detail.info.trigger !== TRIGGERS.DRAG_STOPPED) order(ids);
  }

  function order(ids: readonly number[]): void {
    if (ids.every((id, i) => id === i)) return;
    const selected = chosen;
    change('Move a channel', (list) => {
      const next = ids.map((id) => list[id]);
      list.splice(0, list.length, ...next);
    });
    at = ids.indexOf(selected);
    bench.solo = null;
  }

  function onkeydown(event: KeyboardEvent, i: number): void {
    const next = listStep(event, i, stack.length);
    if (!next) return;
    event.preventDefault();
    event.stopPropagation();
    if (next.order) order(next.order);
    at = next.at;
  }

  $effect(() => () => (bench.solo = null));
  $effect(() => untrack(() => bench.measurer.watch(['lum'])));

  function editMask(): void {
    bench.masks.place = { kind: 'entry', index: chosen };
    bench.masks.termAt = 0;
    bench.part = 'where';
  }
</script>

<div class="panel">
  <Strip
    {session}
    {bench}
    label="Channels as light"
    folded
    items={ten}
    hint={({ title }) => `${title}: the light it would give alone`}
    step={({ id }) => alone(id)}
    onchoose={({ id }) => add(id)}
  >
    {#snippet title({ id, sign })}<span class="sign"
        ><span class="dot" style:background={swatch(id)}></span>{sign}</span
      >{/snippet}
  </Strip>
  {#if stack.length === 0}
    <p class="quiet">
      Choose a channel by looking: its greys become the picture’s light. Each further one is blended on those
      before it.
    </p>
  {/if}
  <ol
    aria-label="Stack of channels, the first at the bottom of the light"
    use:dndzone={dragging(dragged.items, 'entry')}
    onconsider={dragged.consider}
    onfinalize={finalize}
  >
    {#each dragged.items as item, i (item.id)}
      {@const e = item.now().entry}
      <li class:chosen={i === chosen}>
        <Draggable size={16} />
        <button
          class="entry"
          aria-pressed={i === chosen}
          title="Select. Alt with the arrows moves it."
          onclick={() => (at = i)}
          onkeydown={(event) => onkeydown(event, i)}
        >
          <span class="dot" style:background={swatch(e.channel)}></span>
          <b>{channelOf(e.channel).name}{channelOf(e.channel).ink ? ' ink' : ''}</b>
          <span class="quiet"
            >{modeTitle(e.mode).toLowerCase()}
            {Math.round(100 * e.opacity)} %{e.from
              ? ` · ${referenceTold(e.from, session.document)}`
              : ''}{isAllTones(e.under) && isAllTones(e.over) ? '' : ' · limits'}{e.where
              ? ' · mask'
              : ''}</span
          >
        </button>
        <button
          class="tool"
          aria-pressed={bench.solo === i}
          aria-label={`See the grey up to ${channelOf(e.channel).name}`}
          title="See the grey picture that the stack makes so far"
          onclick={() => (bench.solo = bench.solo === i ? null : i)}><View size={16} /></button
        >
        <button
          class="tool"
          aria-label={`Remove ${channelOf(e.channel).name}`}
          title="Remove"
          onclick={() => remove(i)}><Close size={16} /></button
        >
      </li>
    {/each}
  </ol>
  {#if entry}
    <div class="two">
      <Select
        size="sm"
        labelText="Channel"
        selected={entry.channel}
        on:update={({ detail }) => {
          const id = String(detail);
          if (id !== entry.channel) changeEntry('Another channel', (e) => (e.channel = id));
        }}
      >
        {#each channels as c (c.id)}<SelectItem value={c.id} text={`${c.sign} · ${c.name}`} />{/each}
      </Select>
      <Select
        size="sm"
        labelText="Laid on by"
        selected={entry.mode}
        on:update={({ detail }) => {
          const mode = detail as BlendMode;
          if (mode !== entry.mode) changeEntry(`Lay on by ${mode}`, (e) => (e.mode = mode));
        }}
      >
        {#each modes as mode (mode)}<SelectItem value={mode} text={modeTitle(mode)} />{/each}
      </Select>
    </div>
    <ReferenceSelect
      {session}
      label="Of"
      own="this step’s input"
      value={entry.from ?? null}
      onchange={(from) =>
        changeEntry('Channel of another picture', (e) => {
          if (from) e.from = from;
          else delete e.from;
        })}
    />
    <StepAmount {session} {step} {op} path={['stack', chosen, 'opacity']} name="Opacity of the channel" />
    <button class="tool raised wide" aria-pressed={entry.where !== null} onclick={editMask}
      >{entry.where ? 'Its mask …' : 'Hold it to a mask …'}</button
    >
    {#key chosen}
      <TonesPart
        sides={[
          { key: 'under', title: 'Of the grey so far' },
          { key: 'over', title: 'Of the channel' }
        ]}
        tones={{ under: entry.under, over: entry.over }}
        pair={bench.measurer.histograms.get('lum')}
        onchange={(key, tones, gesture) =>
          changeEntry('Limits of a channel', (e) => (e[key] = tones), gesture)}
        onend={() => session.endGesture()}
      />
    {/key}
  {/if}
</div>

<style>
  .sign {
    display: flex;
    gap: 5px;
    align-items: center;
  }
  .dot {
    flex: none;
    width: 8px;
    height: 8px;
    border-radius: 50%;
  }
  ol {
    min-height: 4px;
    margin: 4px 0 8px;
    padding: 0;
    list-style: none;
  }
  li {
    display: grid;
    grid-template-columns: 16px 1fr 28px 28px;
    gap: 2px;
    align-items: center;
    height: 40px;
    margin-bottom: 3px;
    padding-left: 3px;
    background: #232323;
  }
  .chosen {
    background: #2f2d28;
    box-shadow: inset 2px 0 var(--k-bone);
  }
  .entry {
    display: grid;
    grid-template-columns: 8px 1fr;
    gap: 0 7px;
    align-items: center;
    min-width: 0;
    padding: 0 4px;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .entry b {
    font-weight: 500;
  }
  .entry .quiet {
    overflow: hidden;
    grid-column: 2;
    font-size: 11px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px;
    margin-bottom: 6px;
  }
  .wide {
    width: 100%;
    margin: 6px 0;
  }
  p {
    margin: 4px 0 8px;
    font-size: 12px;
  }
</style>
