<script lang="ts">
  import { OverflowMenu, OverflowMenuItem } from 'carbon-components-svelte';
  import Power from 'carbon-icons-svelte/lib/Power.svelte';
  import { tick } from 'svelte';
  import type { Step } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { stepRemoval } from '../bench/removal';
  import { duplicateStep, renameStep, toggleStep } from '../bench/steps';
  import PictureView from '../viewer/PictureView.svelte';
  import { Viewport } from '../viewer/viewport.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    /** Left out for the head. */
    step?: Step;
    title: string;
    subtitle: string;
    /** Active steps whose result the thumbnail shows. */
    steps: readonly Step[];
    selected: boolean;
    onselect: () => void;
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
    steps,
    selected,
    onselect,
    oncopy,
    onpaste,
    onkeydown
  }: Props = $props();

  const viewport = new Viewport();
  const source = $derived(session.source(steps));
  $effect(() => {
    viewport.picture = source.geometry;
  });
  const shown = $derived({ ...source, view: 'colour' as const });
  const enabled = $derived(step?.enabled ?? true);

  let renaming = $state(false);
  let field: HTMLInputElement | undefined = $state();

  function rename(): void {
    renaming = true;
    void tick().then(() => field?.select());
  }

  function renamed(name: string | null): void {
    if (!renaming) return;
    renaming = false;
    if (step && name !== null) renameStep(session, step, name);
  }

  /** Shows the picture up to this step, or to the end again. */
  function solo(): void {
    onselect();
    bench.outTab = 'after';
  }
</script>

<div class="chip" class:selected class:off={!enabled} class:head={!step}>
  {#if renaming}
    <input
      bind:this={field}
      class="rename"
      aria-label="Name of the step"
      placeholder={title}
      value={step?.name ?? ''}
      onblur={(event) => renamed(event.currentTarget.value)}
      onkeydown={(event) => {
        if (event.key === 'Enter') renamed(event.currentTarget.value);
        if (event.key === 'Escape') renamed(null);
      }}
    />
  {:else if step}
    <button
      class="choose"
      aria-pressed={selected}
      onclick={onselect}
      ondblclick={rename}
      {onkeydown}
      title={`${subtitle}. Drag, or Alt with an arrow, to move it.`}
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
    <button class="choose" aria-pressed={selected} onclick={onselect} title={subtitle}>
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
      <OverflowMenu size="sm" flipped aria-label={`What to do with ${title}`}>
        <OverflowMenuItem text="Rename" on:click={rename} />
        <OverflowMenuItem text="Duplicate" on:click={() => duplicateStep(session, it)} />
        <OverflowMenuItem text="Show up to here" on:click={solo} />
        <OverflowMenuItem text="Copy" on:click={() => oncopy?.([it])} />
        <OverflowMenuItem text="Copy whole path" on:click={() => oncopy?.(session.picture.steps)} />
        <OverflowMenuItem text="Paste after" on:click={() => (onselect(), onpaste?.())} />
        <OverflowMenuItem
          hasDivider
          danger
          text="Remove"
          on:click={() => (bench.removal = stepRemoval(session, it))}
        />
      </OverflowMenu>
    </div>
  {/if}
</div>

<style>
  .chip {
    display: flex;
    height: 64px;
    background: var(--k-raised);
    box-shadow: inset 0 0 0 1px transparent;
  }
  .selected {
    box-shadow: inset 0 0 0 2px var(--k-bone);
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
    margin: 16px 8px;
    padding: 0 8px;
    border: 0;
    background: #111;
    color: var(--k-text);
    font: inherit;
  }
  .tools {
    display: flex;
    flex-direction: column;
    justify-content: center;
    padding-right: 3px;
  }
  .tools :global(.bx--overflow-menu) {
    width: 28px;
    height: 28px;
  }
</style>
