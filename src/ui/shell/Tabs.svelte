<script lang="ts" generics="Id extends string">
  import type { Snippet } from 'svelte';

  interface Props {
    title: string;
    /** Names the tabs where there is no title. */
    label?: string;
    tabs: readonly { id: Id; title: string }[];
    value: Id;
    /** Id of the element that shows what is chosen. */
    panel: string;
    children?: Snippet;
  }
  let { title, label = title, tabs, value = $bindable(), panel, children }: Props = $props();
  let buttons: HTMLButtonElement[] = $state([]);

  function onkeydown(event: KeyboardEvent, index: number): void {
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    const next = (index + step + tabs.length) % tabs.length;
    value = tabs[next].id;
    buttons[next].focus();
  }
</script>

<header class="pane-header">
  <span class="pane-title">{title}</span>
  <div class="tabs" role="tablist" aria-label={label}>
    {#each tabs as tab, index (tab.id)}
      <button
        bind:this={buttons[index]}
        role="tab"
        id={`${panel}-${tab.id}`}
        aria-controls={panel}
        aria-selected={value === tab.id}
        tabindex={value === tab.id ? 0 : -1}
        onclick={() => (value = tab.id)}
        onkeydown={(event) => onkeydown(event, index)}>{tab.title}</button
      >
    {/each}
  </div>
  <span class="rest">{@render children?.()}</span>
</header>

<style>
  .tabs {
    display: flex;
    gap: 2px;
    height: 100%;
  }
  [role='tab'] {
    padding: 0 8px;
    border: 0;
    border-bottom: 2px solid transparent;
    background: none;
    color: var(--k-text-quiet);
    font: inherit;
    white-space: nowrap;
    cursor: pointer;
  }
  [role='tab']:hover {
    color: var(--k-text);
  }
  [aria-selected='true'] {
    border-bottom-color: var(--k-bone);
    color: var(--k-text);
  }
  .rest {
    display: flex;
    flex: 1;
    align-items: center;
    justify-content: flex-end;
    gap: 4px;
    min-width: 0;
    white-space: nowrap;
  }
</style>
