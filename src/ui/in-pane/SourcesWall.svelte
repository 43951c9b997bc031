<script lang="ts">
  import { untrack } from 'svelte';
  import Add from 'carbon-icons-svelte/lib/Add.svelte';
  import { channelOf, wallModels } from '$core/colour';
  import { maskSchema, type MaskTerm } from '$core/document';
  import type { Candidate } from '$core/measure/separation';
  import type { BenchState } from '../bench/bench.svelte';
  import { maskStep } from '../bench/mask-bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { told } from '../numbers';
  import PictureView from '../viewer/PictureView.svelte';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const masks = $derived(bench.masks);
  const before = $derived(session.cursor.stepsBefore);
  const pins = $derived(session.cursor.pins);
  const ranked = $derived(pins.some((p) => p.role === 'want') && pins.some((p) => p.role === 'avoid'));
  $effect(() => {
    void pins;
    void before;
    untrack(() => masks.rank());
  });

  type Offer = Pick<Candidate, 'source' | 'name'> & Partial<Candidate>;
  const plain: readonly Offer[] = [
    ...wallModels.flatMap((m) => m.channels.map((c) => c.id)),
    ...['hsv.s', 'lch.c', 'lum', 'warm']
  ].map((id) => ({
    source: { kind: 'channel', channel: id },
    name: `${channelOf(id).name}${channelOf(id).ink ? ' ink' : ''}`
  }));
  const offers = $derived<readonly Offer[]>(ranked && masks.candidates.length ? masks.candidates : plain);

  const termOf = ({ source, curve }: Offer): MaskTerm =>
    masks.termOf(source, curve ? { curve: curve.map(([x, y]): [number, number] => [x, y]) } : {});

  /** Into the selected term, or as one more. */
  function take(offer: Offer, another: boolean): void {
    const term = termOf(offer);
    const at = masks.chosen;
    if (another || !masks.term) masks.add(term.source, term.curve ? { curve: term.curve } : {});
    else
      masks.change('Take another source', (mask) => {
        const { combine, amount, invert } = mask.terms[at];
        mask.terms[at] = { ...term, combine, amount, invert: offer.curve ? false : invert };
      });
    if (bench.part !== 'where') bench.part = 'where';
  }
</script>

<div class="sources">
  <p class="quiet">
    {#if ranked}Ranked by how well each tells the pins apart, in %. A click takes it, with the curve shown.
    {:else}Give pins the roles <i>want</i> and <i>avoid</i> to have these ranked. A click takes one as a term.{/if}
  </p>
  <ul aria-label="Sources for the mask">
    {#each offers as offer, i (offer.name)}
      <li>
        <button
          class="offer"
          aria-label={offer.name}
          title={`Take ${offer.name}${masks.term ? ' into the selected term' : ''}`}
          onclick={() => take(offer, false)}
        >
          <span class="thumbnail">
            <PictureView
              shown={{
                ...session.cursor.showing([
                  ...before,
                  maskStep({ ...maskSchema.parse({}), terms: [termOf(offer)] })
                ]),
                view: 'colour'
              }}
              viewport={bench.viewport}
              role="small"
              label=""
              priority={6}
              delay={150}
            />
            {#if offer.auc !== undefined}<span class="rank mono">{i + 1}</span>{/if}
          </span>
          <span class="name">{offer.name}</span>
          {#if offer.auc !== undefined}<span
              class="mono auc"
              title="Area under the ROC curve: 100 % tells them apart wholly"
              >{told(100 * offer.auc, offer.auc > 0.9995 ? 0 : 1)}</span
            >{/if}
        </button>
        {#if masks.term}
          <button
            class="tool more"
            aria-label={`Add ${offer.name} as one more term`}
            title="Add as one more term"
            onclick={() => take(offer, true)}><Add size={16} /></button
          >
        {/if}
      </li>
    {/each}
  </ul>
</div>

<style>
  .sources {
    flex: 1;
    min-height: 0;
    overflow-y: auto;
    padding: 4px 6px 8px;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  p {
    margin: 4px 4px 8px;
    font-size: 12px;
  }
  ul {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(122px, 1fr));
    gap: 6px;
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    position: relative;
  }
  .offer {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 2px 6px;
    width: 100%;
    padding: 0 0 3px;
    border: 0;
    background: #232323;
    color: inherit;
    font: inherit;
    font-size: 12px;
    text-align: left;
    cursor: pointer;
  }
  .offer:hover {
    background: #2f2d28;
  }
  .rank {
    position: absolute;
    top: 3px;
    left: 3px;
    padding: 0 5px;
    background: rgb(20 20 20 / 82%);
    color: var(--k-text-quiet);
    font-size: 11px;
  }
  .thumbnail {
    position: relative;
    display: block;
    grid-column: 1 / -1;
    height: 84px;
    background: #141414;
  }
  .name {
    overflow: hidden;
    padding-left: 5px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .auc {
    padding-right: 5px;
    color: var(--k-bone);
  }
  .more {
    position: absolute;
    top: 3px;
    right: 3px;
    background: rgb(20 20 20 / 82%);
  }
</style>
