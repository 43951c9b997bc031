<script lang="ts">
  import { isComposed, type Row } from '$core/heads';
  import { sourcesFor } from '../bench/composing';
  import { addNarrow, broadShare, isNarrow, mainPart } from '../bench/narrow-band';
  import type { Session } from '../bench/session.svelte';
  import { told, typed } from '../numbers';

  let { session }: { session: Session } = $props();

  const head = $derived(session.cursor.picture.head);
  const sources = $derived(sourcesFor(session));
  const ROWS: readonly [Row, string][] = [
    ['r', 'red'],
    ['g', 'green'],
    ['b', 'blue']
  ];
  let chosen = $state('');
  let row = $state<Row>('r');
  let strength = $state(40);
  let looking = $state.raw<AbortController | null>(null);
  let result = $state('');
  let problem = $state('');

  const narrow = $derived(
    sources.find(({ picture }) => picture.id === chosen) ?? sources.find(({ picture }) => isNarrow(picture))
  );
  const broad = $derived(isComposed(head) && narrow ? mainPart(head, row, sources, narrow.picture.id) : null);
  const shown = $derived(session.cursor.picture.id);
  // Who goes to another picture leaves it: what is found belongs to this one.
  $effect(() => {
    void shown;
    [result, problem] = ['', ''];
    return () => looking?.abort();
  });

  async function add(): Promise<void> {
    if (!narrow || !broad) return;
    const own = (looking = new AbortController());
    [result, problem] = ['', ''];
    const into = ROWS.find(([r]) => r === row)![1];
    try {
      const share = await broadShare(session, broad.picture, narrow.from, own.signal);
      if (own.signal.aborted) return;
      if (share === null) {
        problem = `Nothing in “${narrow.picture.name}” rises where “${broad.picture.name}” does: there is no broad-band share to be found, and nothing was added.`;
        return;
      }
      addNarrow(session, row, narrow.from, broad.from, strength / 100, share);
      result = `“${narrow.picture.name}” holds ${told(100 * share, 2)} % of “${broad.picture.name}”: so much was taken off ${into}.`;
    } catch (error) {
      if (!own.signal.aborted) problem = (error as Error).message;
    } finally {
      if (looking === own) looking = null;
    }
  }
</script>

<details>
  <summary>Add a narrow band</summary>
  <div class="fields">
    <label
      ><span>Picture</span><select
        class="tool-choice"
        value={narrow?.picture.id ?? ''}
        onchange={(event) => (chosen = event.currentTarget.value)}
      >
        {#if !narrow}<option value="">choose one</option>{/if}
        {#each sources as { picture } (picture.id)}<option value={picture.id}>{picture.name}</option>{/each}
      </select></label
    >
    <label
      ><span>Into</span><select class="tool-choice" bind:value={row}>
        {#each ROWS as [id, name] (id)}<option value={id}>{name}</option>{/each}
      </select></label
    >
    <label
      ><span>Strength, %</span><input
        class="mono"
        inputmode="decimal"
        value={strength}
        onchange={(event) => {
          const value = typed(event.currentTarget.value, strength);
          if (value !== null && value > 0 && value <= 10_000) strength = value;
          event.currentTarget.value = String(strength);
        }}
      /></label
    >
    <button class="tool raised" disabled={!narrow || !broad || looking !== null} onclick={() => void add()}
      >{looking ? 'Looking at both …' : 'Add it'}</button
    >
  </div>
  <p class="quiet" role="status">
    {#if result}{result}
    {:else if narrow && !broad}There is nothing in that row that its broad-band share could be taken off.
    {:else}Its light is added, and what it holds of the row’s own light is found by a straight line and taken
      off.{/if}
  </p>
  {#if problem}<p class="warn" role="alert">{problem}</p>{/if}
</details>

<style>
  summary {
    min-height: 24px;
    cursor: pointer;
  }
  .fields {
    display: flex;
    flex-wrap: wrap;
    align-items: end;
    gap: 8px;
    margin: 6px 0;
  }
  label {
    display: flex;
    flex-direction: column;
    gap: 2px;
    font-size: 12px;
  }
  label span {
    color: var(--k-text-quiet);
  }
  input {
    width: 60px;
    height: 24px;
    padding: 0 6px;
    border: 0;
    background: #2e2e2e;
    color: var(--k-text);
    text-align: right;
  }
  p {
    margin: 0;
    font-size: 12px;
  }
</style>
