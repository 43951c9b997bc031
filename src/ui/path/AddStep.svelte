<script lang="ts">
  import Add from 'carbon-icons-svelte/lib/Add.svelte';
  import { tick } from 'svelte';
  import { ops, type Op } from '$core/ops';
  import type { Session } from '../bench/session.svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import { addStep, presets, type Preset } from '../bench/steps';
  import { goToFirstNumber } from '../work-pane/first-number';
  import { elsewhere, ranked } from './search';

  interface Props {
    session: Session;
    bench: BenchState;
    open: boolean;
  }
  let { session, bench, open = $bindable() }: Props = $props();

  type Offer = Op | Preset;
  const offers: readonly Offer[] = [...ops, ...presets];

  let wanted = $state('');
  let at = $state(0);
  let field: HTMLInputElement | undefined = $state();
  let button: HTMLButtonElement;
  let place = $state({ left: 0, top: 0 });
  const found = $derived(ranked(offers, wanted));
  const hint = $derived(elsewhere(wanted));
  const chosen = $derived(Math.min(at, found.length - 1));

  $effect(() => {
    if (!open) return;
    wanted = '';
    at = 0;
    const box = button.getBoundingClientRect();
    place = { left: Math.max(8, Math.min(box.left, window.innerWidth - 388)), top: box.bottom + 6 };
    void tick().then(() => field?.focus());
  });

  function close(): void {
    open = false;
    button.focus();
  }

  /** With a step there is something to set: its first number is the next thing a hand wants. */
  async function begin(): Promise<void> {
    open = false;
    await goToFirstNumber();
  }

  function add(offer: Offer, byKey: boolean): void {
    if ('step' in offer) addStep(session, offer.op, offer.step);
    else addStep(session, offer.id);
    if ('painted' in offer) {
      bench.masks.place = { kind: 'step' };
      bench.masks.termAt = 0;
      bench.part = 'where';
      bench.hand.paint(true);
    }
    // A brush is no number.
    if (byKey && !('painted' in offer)) void begin();
    else close();
  }

  function onkeydown(event: KeyboardEvent): void {
    if (event.key === 'ArrowDown') at = Math.min(found.length - 1, chosen + 1);
    else if (event.key === 'ArrowUp') at = Math.max(0, chosen - 1);
    else if (event.key === 'Enter' && found[chosen]) add(found[chosen], true);
    else if (event.key === 'Escape') close();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<svelte:window
  onpointerdown={(event) => {
    if (open && event.target instanceof Element && !event.target.closest('.add-step')) open = false;
  }}
/>

<div class="add-step">
  <button
    bind:this={button}
    class="tool add"
    title="Add a step after the selected one (A)"
    aria-label="Add a step"
    aria-expanded={open}
    onclick={() => (open = !open)}
  >
    <Add size={20} />
  </button>
  {#if open}
    <div
      class="list"
      role="dialog"
      aria-label="Add a step"
      tabindex="-1"
      {onkeydown}
      style:left="{place.left}px"
      style:top="{place.top}px"
      onfocusout={({ relatedTarget }) => {
        if (relatedTarget instanceof Element && !relatedTarget.closest('.add-step')) open = false;
      }}
    >
      <input
        bind:this={field}
        type="search"
        placeholder="What should it do?"
        aria-label="Search the steps"
        role="combobox"
        aria-expanded="true"
        aria-controls="step-list"
        aria-activedescendant={found[chosen] ? `op-${found[chosen].id}` : undefined}
        bind:value={wanted}
        oninput={() => (at = 0)}
      />
      <ul id="step-list" role="listbox" aria-label="Steps">
        {#each found as op, i (op.id)}
          <!-- svelte-ignore a11y_click_events_have_key_events (the dialog has the keys) -->
          <li
            id={`op-${op.id}`}
            role="option"
            aria-selected={i === chosen}
            onpointerenter={() => (at = i)}
            onclick={() => add(op, false)}
          >
            <b>{op.title}</b><span>{op.purpose}</span>
          </li>
        {/each}
        {#if hint}<li class="none">{hint}</li>
        {:else if found.length === 0}<li class="none">
            No step is called that. Try “cast”, “grey”, “edges”.
          </li>{/if}
      </ul>
    </div>
  {/if}
</div>

<style>
  .add {
    width: 44px;
    height: 44px;
    border: 1px dashed #666;
  }
  .list {
    position: fixed;
    z-index: 20;
    display: flex;
    flex-direction: column;
    width: 380px;
    max-height: min(640px, calc(100vh - 150px));
    background: #222;
    box-shadow: 0 8px 30px rgb(0 0 0 / 55%);
    outline: 1px solid #444;
  }
  input {
    flex: none;
    height: 38px;
    padding: 0 12px;
    border: 0;
    border-bottom: 1px solid #444;
    background: #1a1a1a;
    color: var(--k-text);
    font: inherit;
  }
  ul {
    overflow-y: auto;
    margin: 0;
    padding: 4px 0;
    list-style: none;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  li[role='option'] {
    display: flex;
    flex-direction: column;
    padding: 4px 12px 5px;
    cursor: pointer;
  }
  li span {
    color: var(--k-text-quiet);
    font-size: 12px;
  }
  [aria-selected='true'] {
    background: #35332e;
    box-shadow: inset 3px 0 var(--k-bone);
  }
  .none {
    padding: 10px 12px;
    color: var(--k-text-quiet);
  }
</style>
