<script lang="ts">
  import Close from 'carbon-icons-svelte/lib/Close.svelte';
  import Power from 'carbon-icons-svelte/lib/Power.svelte';
  import type { Step } from '$core/document';
  import type { Session } from '../bench/session.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import { Viewport } from '../viewer/viewport.svelte';

  interface Props {
    session: Session;
    title: string;
    subtitle: string;
    /** Active steps whose result the thumbnail shows. */
    steps: readonly Step[];
    selected: boolean;
    enabled?: boolean;
    onselect: () => void;
    ontoggle?: () => void;
    onremove?: () => void;
  }
  let {
    session,
    title,
    subtitle,
    steps,
    selected,
    enabled = true,
    onselect,
    ontoggle,
    onremove
  }: Props = $props();

  const viewport = new Viewport();
  $effect(() => {
    viewport.picture = session.opened.frame;
  });
  const shown = $derived({ ...session.source(steps), view: 'colour' as const });
</script>

<div class="chip" class:selected class:off={!enabled}>
  <button class="choose" aria-pressed={selected} onclick={onselect} title={subtitle}>
    <span class="thumbnail"
      ><PictureView {shown} {viewport} role="small" label="" priority={6} delay={150} /></span
    >
    <span class="words">
      <span class="title">{title}</span>
      <span class="subtitle">{enabled ? subtitle : 'off'}</span>
    </span>
  </button>
  {#if ontoggle}
    <div class="tools">
      <button
        class="tool"
        aria-pressed={enabled}
        aria-label={`${title} on`}
        title={enabled ? 'Switch off' : 'Switch on'}
        onclick={ontoggle}
      >
        <Power size={16} />
      </button>
      <button class="tool" aria-label={`Remove ${title}`} title="Remove" onclick={onremove}
        ><Close size={16} /></button
      >
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
    gap: 10px;
    min-width: 0;
    padding: 6px 8px 6px 6px;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .thumbnail {
    flex: none;
    width: 76px;
    height: 52px;
    background: var(--k-stage);
  }
  .words {
    display: flex;
    flex-direction: column;
    gap: 3px;
    min-width: 0;
    max-width: 150px;
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
    font-size: 12px;
    color: var(--k-text-quiet);
  }
  .off .thumbnail,
  .off .title {
    opacity: 0.5;
  }
  .tools {
    display: flex;
    flex-direction: column;
    justify-content: center;
    padding-right: 4px;
  }
</style>
