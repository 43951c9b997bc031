<script lang="ts">
  import type { Joined } from '$core/ops/averaging';
  import { changeAverage, isAverage, sourcesFor } from '../bench/composing';
  import { Follower } from '../bench/follower.svelte';
  import type { Session } from '../bench/session.svelte';
  import { trouble } from '../bench/trouble.svelte';
  import { told } from '../numbers';
  import { pool } from '../services';
  import Choice from './Choice.svelte';
  import Switch from './Switch.svelte';

  let { session }: { session: Session } = $props();
  const head = $derived(session.cursor.picture.head);
  const sources = $derived(sourcesFor(session));

  interface Found {
    readonly joined: readonly Joined[] | null;
    readonly noise: readonly number[];
  }
  const finding = new Follower<null, Found>(
    'the noise of the average',
    async (_, { signal }) => {
      const { solution, noise } = await pool.run('head', session.cursor.source, { priority: 3, signal });
      return { joined: solution as readonly Joined[] | null, noise };
    },
    { interrupts: true }
  );
  $effect(() => {
    void [session.cursor.source.head, trouble.round];
    if (isAverage(head)) finding.ask(null);
    else finding.clear();
  });
  const found = $derived(finding.value);
  /** Where a picture stands among those of the average; −1 for one that is none of them. */
  const placeOf = (id: string): number =>
    isAverage(head) ? head.of.findIndex((of) => of.picture === id) : -1;
  const unmatched = $derived(
    sources.map(({ picture }) => picture).filter(({ id }) => found?.joined?.[placeOf(id)]?.unmatched)
  );
  const percent = (v: number): string => told(100 * v, 4);
  /** What the noise comes to by theory: weights of inverse variance, or all alike. */
  const theory = $derived.by(() => {
    if (!found?.joined || !isAverage(head)) return null;
    const { joined } = found;
    const sum = joined.reduce((total, { weight }) => total + weight[0], 0);
    return (
      Math.sqrt(joined.reduce((total, { weight, noise }) => total + (weight[0] * noise[0]) ** 2, 0)) / sum
    );
  });

  function toggle(id: string): void {
    const at = placeOf(id);
    changeAverage(session, at < 0 ? 'Into the average' : 'Out of the average', (average) => {
      if (at < 0) average.of.push({ picture: id });
      else if (average.of.length > 1) average.of.splice(at, 1);
    });
  }
</script>

{#if isAverage(head)}
  <div class="parts">
    <table class="mono found" aria-label="Pictures of the average">
      <thead><tr><th></th><th>gain</th><th>level, %</th><th>noise, %</th></tr></thead>
      <tbody>
        {#each sources as { picture } (picture.id)}
          {@const at = placeOf(picture.id)}
          {@const one = at >= 0 ? found?.joined?.[at] : undefined}
          <tr>
            <th scope="row"
              ><label
                ><input
                  type="checkbox"
                  checked={at >= 0}
                  disabled={at >= 0 && head.of.length === 1}
                  onchange={() => toggle(picture.id)}
                />
                {picture.name}</label
              ></th
            >
            <td>{one ? told(one.gain[0], 3) : ''}</td>
            <td>{one ? percent(one.level[0]) : ''}</td>
            <td>{one ? percent(one.noise[0]) : ''}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="quiet" role="status">
      {#if found && theory !== null}
        The average has {percent(found.noise[0])} % of noise; by theory {percent(theory)} %, the best of its pictures
        {percent(Math.min(...found.joined!.map(({ noise }) => noise[0])))} %.
      {:else if found}The average has {percent(found.noise[0])} % of noise.
      {:else}Looking at the pictures …{/if}
    </p>
    {#if unmatched.length > 0}
      <p class="warn">
        {unmatched.map(({ name }) => `“${name}”`).join(' and ')} can’t be matched to the first: nothing in it rises
        where that rises. It joins as it is, and is better left out.
      </p>
    {/if}
    <Choice
      legend="They weigh"
      value={head.weighting}
      values={[
        ['noise', 'by their noise'],
        ['equal', 'all alike']
      ]}
      onchange={(weighting) =>
        changeAverage(session, 'Weights of the average', (of) => (of.weighting = weighting))}
    />
    <Switch
      label="Match level and strength to the first"
      on={head.match}
      onchange={(match) => changeAverage(session, 'Match the pictures', (of) => (of.match = match))}
    />
  </div>
{/if}

<style>
  .parts {
    display: flex;
    flex-direction: column;
    gap: 8px;
    margin: 12px;
  }
  label {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 26px;
  }
  p {
    margin: 0;
    font-size: 12px;
  }
</style>
