<script lang="ts">
  import { modelOf } from '$core/colour';
  import { paramsOf } from '$core/ops/op';
  import { match as op, type MatchCoefficients, type MatchParams } from '$core/ops/match';
  import { swatch } from '../channel-colour';
  import { told } from '../numbers';
  import ReferenceSelect from '../where/ReferenceSelect.svelte';
  import Choice from './Choice.svelte';
  import LineScatter from './LineScatter.svelte';
  import type { PanelProps } from './panels';
  import { solvedNumbers } from './solved.svelte';
  import StepAmount from './StepAmount.svelte';
  import Switch from './Switch.svelte';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));
  const solving = solvedNumbers<MatchCoefficients>(
    () => bench,
    'what the match solves',
    () => !params.frozen
  );
  const found = $derived(solving.value);
  const channels = modelOf('rgb').channels;
  const LETTERS = ['r', 'g', 'b'] as const;
  /** What was found; the channels of a grey picture are one. */
  const drawn = $derived.by(() => {
    const all = channels.flatMap((c, i) => {
      const line = found?.lines?.[i];
      return typeof line === 'object' ? [{ line, colour: swatch(c.id), name: c.name }] : [];
    });
    const [first] = all;
    const grey = all.every(({ line }) => line.gain === first.line.gain && line.offset === first.line.offset);
    return grey && all.length > 1 ? [{ ...first, colour: '#cfcabd' }] : all;
  });
  const unmatched = $derived(channels.filter((_, i) => found?.lines?.[i] === 'none').map(({ name }) => name));

  function set(what: string, change: (p: MatchParams) => void): void {
    session.changeParams(op, `Match: ${what}`, change);
  }

  function freeze(frozen: boolean): void {
    set(frozen ? 'freeze' : 'solve', (p) => {
      p.frozen = frozen;
      if (!frozen || !found) return;
      LETTERS.forEach((letter, c) => {
        p.gain[letter] = found.gain[c];
        p.offset[letter] = found.offset[c];
      });
    });
  }
</script>

<div class="panel stacked">
  <ReferenceSelect
    {session}
    label="To"
    own="a channel of its own"
    value={params.to}
    onchange={(to) => set('to another picture', (p) => (p.to = to))}
  />
  {#if !params.to}
    <Choice
      legend="To the channel"
      value={params.channel}
      values={[
        ['lowest', 'of the lowest level'],
        ['r', 'red'],
        ['g', 'green'],
        ['b', 'blue']
      ]}
      onchange={(channel) => set('channel', (p) => (p.channel = channel))}
    />
  {/if}
  <Switch label="Numbers stay as they are" on={params.frozen} onchange={freeze} />
  {#if params.frozen}
    {#each channels as c, i (c.id)}
      <StepAmount
        {session}
        {step}
        {op}
        path={['gain', LETTERS[i]]}
        name={`Match gain of ${c.name}`}
        label={`${c.name} gain`}
        colour={swatch(c.id)}
      />
      <StepAmount
        {session}
        {step}
        {op}
        path={['offset', LETTERS[i]]}
        name={`Match offset of ${c.name}`}
        label="offset"
        colour={swatch(c.id)}
      />
    {/each}
  {:else if found}
    <table class="mono found" aria-label="Found in the picture">
      <thead><tr><th></th><th>gain, %</th><th>offset, %</th><th>left, %</th><th>samples</th></tr></thead>
      <tbody>
        {#each channels as c, i (c.id)}
          {@const line = found.lines?.[i]}
          <tr>
            <th><span class="dot" style:background={swatch(c.id)}></span>{c.sign}</th>
            <td>{told(100 * found.gain[i], 2)}</td>
            <td>{told(100 * found.offset[i], 4)}</td>
            {#if typeof line === 'object'}
              <td>{told(100 * line.residual, 4)}</td>
              <td>{line.count}</td>
            {:else}
              <td>–</td>
              <td class:warn={line === 'none'}>{line === 'none' ? 'no line' : 'as it is'}</td>
            {/if}
          </tr>
        {/each}
      </tbody>
    </table>
    {#if drawn.length > 0}
      <LineScatter
        lines={drawn}
        across="this picture"
        upright={params.to ? 'the other' : 'the channel matched to'}
      />
    {/if}
    {#if unmatched.length > 0}
      <p class="warn">
        {unmatched.join(' and ')}
        {unmatched.length > 1 ? 'stay as they are: they do' : 'stays as it is: it does'} not rise where what {unmatched.length >
        1
          ? 'they are'
          : 'it is'} matched to rises. Choose another one to match to, or set the numbers by hand.
      </p>
    {/if}
    <p class="quiet">
      A straight line with noise on both sides (Deming); what lies far off it and what is over 90 % is left
      out.
    </p>
  {:else}<p class="quiet">Looking at both …</p>{/if}
</div>
