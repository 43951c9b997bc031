<script lang="ts">
  import { untrack } from 'svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import { Follower } from '../bench/follower.svelte';
  import { framesOfInputs, inputsOf, type Input } from '../bench/inputs';
  import { shownAt } from '../bench/shown-at';
  import type { Session } from '../bench/session.svelte';
  import { told } from '../numbers';
  import { pool } from '../services';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Spot } from '../viewer/spot';

  interface Props {
    session: Session;
    bench: BenchState;
    onSpot: (spot: Spot | null) => void;
  }
  let { session, bench, onSpot }: Props = $props();

  const inputs = $derived(inputsOf(session));
  let problem = $state('');
  /** The noise of each, by its key. */
  const noises = new Follower<readonly Input[], ReadonlyMap<string, number>>(
    'the noise of the frames',
    async (asked, { tell, signal }) => {
      const found = new Map<string, number>();
      for (const { key, picture } of asked) {
        const { head, pins } = session.resolver.whole(picture);
        const ask = { head, steps: [], pins };
        const how = { priority: 6, signal };
        if (head.kind === 'frame') found.set(key, (await pool.run('noise', { ...ask, plane: 0 }, how)).noise);
        else {
          const { noise } = await pool.run('head', ask, how);
          found.set(key, noise.reduce((sum, v) => sum + v, 0) / noise.length);
        }
        tell(new Map(found));
      }
      return found;
    },
    { interrupts: true }
  );

  // The frames stay open for as long as they are looked at here.
  const wanted = $derived(framesOfInputs(session, inputs).join('\n'));
  const listed = $derived(inputs.map(({ key }) => key).join('\n'));
  $effect(() => {
    void listed;
    const leaving = new AbortController();
    const { signal } = leaving;
    const lookedAt = new Promise<void>((resolve) => signal.addEventListener('abort', () => resolve()));
    const asked = untrack(() => inputs);
    problem = '';
    session.pictures
      .withOpen(wanted.split('\n'), signal, () => {
        noises.ask(asked);
        return lookedAt;
      })
      .catch((error: unknown) => {
        if (!signal.aborted) problem = (error as Error).message;
      });
    return () => {
      leaving.abort();
      noises.clear();
    };
  });

  function noiseOf({ key }: Input): string {
    const noise = noises.value?.get(key);
    return noise === undefined ? 'noise …' : `noise ${told(100 * noise, 4)} %`;
  }
</script>

<div class="wall">
  {#if problem}<p class="warn" role="alert">{problem}</p>{/if}
  <ul aria-label="Frames that go in">
    {#each inputs as input (input.key)}
      {@const { picture, place, taken } = input}
      {@const shown = shownAt(session, picture, place)}
      {@const own = picture.id === session.cursor.picture.id}
      <li>
        <button
          class="cell"
          class:own
          aria-current={own || undefined}
          title={own ? picture.name : `Go to “${picture.name}”`}
          onclick={() => {
            if (!own) void session.showPicture(picture.id, null);
          }}
        >
          <span class="picture">
            {#if typeof shown === 'string'}<span class="quiet">{problem ? '' : 'Opening …'}</span>
            {:else}
              <PictureView
                shown={{ ...shown, view: 'colour' }}
                viewport={bench.viewport}
                role="small"
                label={picture.name}
                priority={4}
                {onSpot}
              />
            {/if}
          </span>
          <span class="name">
            <b>{taken?.filter || picture.name}</b>
            {#if taken && taken.exposure > 0}<span class="mono">{told(taken.exposure, 0)} s</span>{/if}
            <span class="mono">{noiseOf(input)}</span>
          </span>
        </button>
      </li>
    {/each}
  </ul>
</div>

<style>
  .wall {
    flex: 1;
    min-height: 0;
    overflow-y: auto;
    padding: 6px;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  ul {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(128px, 1fr));
    gap: 6px;
    margin: 0;
    padding: 0;
    list-style: none;
  }
  .cell {
    display: block;
    width: 100%;
    padding: 0;
    border: 0;
    background: #222;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .own {
    box-shadow: 0 0 0 2px var(--k-bone);
  }
  .picture {
    display: grid;
    place-items: center;
    aspect-ratio: 3 / 2;
    background: var(--k-stage);
  }
  .picture :global(> :not(.quiet)) {
    width: 100%;
    height: 100%;
  }
  .name {
    display: block;
    padding: 3px 6px 4px;
    font-size: 12px;
  }
  b {
    display: block;
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .mono {
    display: block;
    color: var(--k-text-quiet);
    font-size: 11px;
  }
  p {
    margin: 0 0 6px;
    font-size: 12px;
  }
</style>
