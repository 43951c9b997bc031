<script lang="ts">
  import ChevronLeft from 'carbon-icons-svelte/lib/ChevronLeft.svelte';
  import ChevronRight from 'carbon-icons-svelte/lib/ChevronRight.svelte';
  import Power from 'carbon-icons-svelte/lib/Power.svelte';
  import type { Place, Step } from '$core/document';
  import { opOf } from '$core/ops';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { renameStep, toggleStep } from '../bench/steps';
  import { longWork } from '../long-work.svelte';
  import NameField from '../shell/NameField.svelte';
  import StepMenu from './StepMenu.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import { Viewport } from '../viewer/viewport.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    /** Left out for the head. */
    step?: Step;
    title: string;
    subtitle: string;
    /** The place of the path whose picture the thumbnail shows. */
    at: Place;
    selected: boolean;
    /** One of several that are chosen. */
    among?: boolean;
    /** @param range with Shift: all up to it */
    onselect: (range: boolean) => void;
    oncopy?: (steps: readonly Step[]) => void;
    onpaste?: () => void;
    onkeydown?: (event: KeyboardEvent) => void;
  }
  let {
    session,
    bench,
    step,
    title,
    subtitle,
    at,
    selected,
    among = false,
    onselect,
    oncopy,
    onpaste,
    onkeydown
  }: Props = $props();

  const viewport = new Viewport();
  const source = $derived(session.cursor.at(at));
  $effect(() => {
    viewport.picture = source.geometry;
  });
  const shown = $derived({ ...source, view: 'colour' as const });
  const enabled = $derived(step?.enabled ?? true);

  const isGroup = $derived(step !== undefined && opOf(step.op).inside !== undefined);
  const unfolded = $derived(step !== undefined && bench.isUnfolded(step));

  const work = $derived(step && longWork.on(step));

  let renaming = $state(false);

  function renamed(name: string | null): void {
    renaming = false;
    if (step && name !== null) renameStep(session, step, name);
  }
</script>

<div class="chip" class:selected class:among class:off={!enabled} class:head={!step}>
  {#if renaming}
    <span class="rename"
      ><NameField
        label="Name of the step"
        value={step?.name ?? ''}
        placeholder={title}
        ondone={renamed}
      /></span
    >
  {:else if step}
    <button
      class="choose"
      data-step={step.id}
      aria-pressed={selected || among}
      onclick={(event) => onselect(event.shiftKey)}
      ondblclick={() => (renaming = true)}
      {onkeydown}
      title={`${subtitle}. Drag, or Alt with an arrow, to move it; Shift click chooses all up to it.`}
    >
      <span class="thumbnail"
        ><PictureView {shown} {viewport} role="small" label="" priority={6} delay={250} /></span
      >
      <span class="words">
        <span class="title">{title}</span>
        <span class="subtitle">{enabled ? subtitle : 'off'}</span>
      </span>
    </button>
  {:else}
    <button
      class="choose"
      aria-pressed={selected}
      onclick={(event) => onselect(event.shiftKey)}
      title={subtitle}
    >
      <span class="thumbnail"
        ><PictureView {shown} {viewport} role="small" label="" priority={6} delay={250} /></span
      >
      <span class="words">
        <span class="title">{title}</span>
        <span class="subtitle">{subtitle}</span>
      </span>
    </button>
  {/if}
  {#if step}
    {@const it = step}
    <div class="tools">
      <button
        class="tool"
        aria-pressed={enabled}
        aria-label={`${title} on`}
        title={enabled ? 'Switch off' : 'Switch on'}
        onclick={() => toggleStep(session, it)}
      >
        <Power size={16} />
      </button>
      <StepMenu
        {session}
        {bench}
        step={it}
        {among}
        onrename={() => (renaming = true)}
        onselect={() => onselect(false)}
        {oncopy}
        {onpaste}
      />
    </div>
    {#if isGroup}
      <button
        class="unfold"
        aria-expanded={unfolded}
        aria-label={`${title}: steps inside`}
        title={unfolded ? 'Fold its steps away' : 'See its steps in the path'}
        onclick={() => bench.setUnfolded(it, !unfolded)}
      >
        {#if unfolded}<ChevronLeft size={16} />{:else}<ChevronRight size={16} />{/if}
      </button>
    {/if}
  {/if}
  {#if work}
    <span
      class="work"
      role="progressbar"
      aria-label={`${title}: ${work.doing}`}
      aria-valuenow={Math.round(100 * work.part)}><span style:width={`${100 * work.part}%`}></span></span
    >
  {/if}
</div>

<style>
  .chip {
    position: relative;
    display: flex;
    height: 64px;
    background: var(--k-raised);
    box-shadow: inset 0 0 0 1px transparent;
  }
  .selected {
    box-shadow: inset 0 0 0 2px var(--k-bone);
  }
  .among:not(.selected) {
    box-shadow: inset 0 0 0 2px var(--k-bone-dim);
  }
  /* What is done at once need not be seen. */
  .work {
    position: absolute;
    inset: auto 2px 2px;
    height: 3px;
    background: var(--k-line);
    animation: appear 0s 0.3s both;
  }
  .work span {
    display: block;
    height: 100%;
    background: var(--k-bone);
  }
  @keyframes appear {
    from {
      opacity: 0;
    }
  }
  .choose {
    display: flex;
    align-items: center;
    gap: 9px;
    min-width: 0;
    padding: 6px 4px 6px 6px;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .thumbnail {
    display: block;
    flex: none;
    width: 72px;
    height: 52px;
    background: var(--k-stage);
  }
  .thumbnail :global(canvas) {
    pointer-events: none;
  }
  .words {
    display: flex;
    flex-direction: column;
    gap: 3px;
    min-width: 0;
    width: 104px;
  }
  .title {
    font-weight: 600;
  }
  .title,
  .subtitle {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .subtitle {
    color: var(--k-text-quiet);
    font-size: 12px;
  }
  .off .thumbnail,
  .off .title {
    opacity: 0.5;
  }
  .rename {
    width: 182px;
    height: 32px;
    margin: 16px 8px;
  }
  .tools {
    display: flex;
    flex-direction: column;
    justify-content: center;
    padding-right: 3px;
  }
  .unfold {
    display: grid;
    place-content: center;
    width: 24px;
    padding: 0;
    border: 0;
    border-left: 1px solid var(--k-line);
    background: none;
    color: inherit;
    cursor: pointer;
  }
  .unfold:hover {
    background: #3a3833;
  }
  .tools :global(.bx--overflow-menu) {
    width: 28px;
    height: 28px;
  }
</style>
