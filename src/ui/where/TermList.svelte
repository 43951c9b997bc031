<script lang="ts">
  import Close from 'carbon-icons-svelte/lib/Close.svelte';
  import { maskSchema } from '$core/document';
  import { combinations } from '$core/mask/combinations';
  import { listStep } from '../arrows';
  import { maskStep } from '../bench/mask-bench.svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import { sourceTold } from './terms';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const masks = $derived(bench.masks);
  const terms = $derived(masks.mask?.terms ?? []);
  const joins = (combine: string): string => combinations.find((c) => c.id === combine)!.title;

  function remove(at: number): void {
    masks.change('Remove a term', (mask) => void mask.terms.splice(at, 1));
    masks.termAt = Math.max(0, masks.chosen - (at <= masks.chosen ? 1 : 0));
  }

  function move(event: KeyboardEvent, at: number): void {
    const step = listStep(event, at, terms.length);
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    const { order } = step;
    if (order)
      masks.change('Move a term', (mask) => {
        mask.terms = order.map((i) => mask.terms[i]);
      });
    masks.termAt = step.at;
  }
</script>

<ol aria-label="Terms of the mask">
  {#each terms as term, i (i)}
    <li class:chosen={i === masks.chosen}>
      <button
        class="term"
        aria-pressed={i === masks.chosen}
        title="Select this term. Alt with the arrows moves it."
        onclick={() => (masks.termAt = i)}
        onkeydown={(event) => move(event, i)}
      >
        <span class="thumbnail">
          <PictureView
            shown={{
              ...session.cursor.showing([
                ...session.cursor.stepsBefore,
                maskStep(maskSchema.parse({ terms: [{ ...term, combine: 'intersect', amount: 1 }] }))
              ]),
              view: 'colour'
            }}
            viewport={bench.viewport}
            role="small"
            label=""
            priority={5}
            delay={120}
          />
        </span>
        <span class="text">
          <i
            >{i === 0 ? 'mask is' : joins(term.combine)}{term.amount < 1
              ? `, ${Math.round(100 * term.amount)} %`
              : ''}{term.stretched ? ', seen stretched' : ''}</i
          >
          <b>{sourceTold(term.source, session.document)}</b>
        </span>
      </button>
      <button
        class="tool"
        aria-label={`Remove term ${i + 1}`}
        title="Remove this term"
        onclick={() => remove(i)}><Close size={16} /></button
      >
    </li>
  {/each}
</ol>

<style>
  ol {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: grid;
    grid-template-columns: 1fr 28px;
    align-items: center;
    margin-bottom: 3px;
    background: #232323;
  }
  .chosen {
    background: #2f2d28;
    box-shadow: inset 2px 0 var(--k-bone);
  }
  .term {
    display: grid;
    grid-template-columns: 60px 1fr;
    gap: 8px;
    align-items: center;
    min-width: 0;
    padding: 3px 3px 3px 5px;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .thumbnail {
    display: block;
    height: 40px;
    background: #141414;
  }
  .text {
    min-width: 0;
  }
  i {
    display: block;
    color: var(--k-text-quiet);
    font-size: 11px;
    font-style: normal;
  }
  b {
    display: block;
    overflow: hidden;
    font-weight: 500;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
