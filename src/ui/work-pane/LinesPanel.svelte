<script lang="ts">
  import { paramsOf } from '$core/ops/op';
  import { lines as op } from '$core/ops/lines';
  import { told } from '../numbers';
  import Choice from './Choice.svelte';
  import type { PanelProps } from './panels';
  import { solvedNumbers } from './solved.svelte';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));
  const solving = solvedNumbers<{ offsets: readonly Float32Array[] }>(
    () => bench,
    'the lines',
    () => true
  );
  const offsets = $derived(solving.value?.offsets[0] ?? null);

  const [WIDTH, HEIGHT] = [260, 70];
  const strongest = $derived(offsets ? offsets.reduce((most, v) => Math.max(most, Math.abs(v)), 0) : 0);
  /** The offsets along the picture, the strongest at the edge of the plot. */
  const drawn = $derived.by(() => {
    if (!offsets || strongest === 0) return '';
    const place = (v: number, i: number): string =>
      `${((i / (offsets.length - 1)) * WIDTH).toFixed(1)},${(HEIGHT / 2 - (v / strongest) * (HEIGHT / 2 - 2)).toFixed(1)}`;
    return `M${Array.from(offsets, place).join('L')}`;
  });

  let wrong = $state('');
  /** Numbers with commas or spaces between them, counted from 1. */
  function only(text: string): void {
    const parts = text.split(/[\s,]+/).filter(Boolean);
    const numbers = parts.map(Number);
    const size = params.direction === 'rows' ? session.cursor.shape.height : session.cursor.shape.width;
    wrong = numbers.some((n) => !Number.isInteger(n) || n < 1 || n > size)
      ? `Whole numbers from 1 to ${size}`
      : '';
    if (wrong) return;
    const next = numbers.length > 0 ? numbers.map((n) => n - 1) : null;
    session.changeParams(op, 'Level lines: which', (p) => (p.only = next));
  }
</script>

<div class="panel stacked">
  <Choice
    legend="Level"
    value={params.direction}
    values={[
      ['rows', 'rows'],
      ['columns', 'columns']
    ]}
    onchange={(direction) =>
      session.changeParams(op, 'Level lines: direction', (p) => (p.direction = direction))}
  />
  <label>
    <span>Only these {params.direction}</span>
    <input
      class="mono"
      class:wrong
      placeholder="all"
      aria-invalid={wrong !== ''}
      value={params.only?.map((n) => n + 1).join(', ') ?? ''}
      onchange={(event) => only(event.currentTarget.value)}
    />
  </label>
  {#if wrong}<p class="warn" role="status">{wrong}</p>{/if}
  {#if drawn}
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`What is taken off the ${params.direction}`}
    >
      <rect width={WIDTH} height={HEIGHT} fill="#161616" />
      <path d={`M0,${HEIGHT / 2}H${WIDTH}`} stroke="#444" />
      <path d={drawn} fill="none" stroke="#cfcabd" stroke-width="0.6" />
    </svg>
    <p class="quiet">The strongest is {told(100 * strongest, 3)} % off its neighbours.</p>
  {:else}<p class="quiet">Looking at the {params.direction} …</p>{/if}
</div>

<style>
  label {
    display: flex;
    gap: 10px;
    align-items: center;
  }
  input {
    flex: 1;
    min-width: 0;
    height: 26px;
    padding: 0 8px;
    border: 0;
    background: #2e2e2e;
    color: var(--k-text);
  }
  input.wrong {
    box-shadow: inset 0 0 0 2px var(--k-warn);
  }
  svg {
    width: 100%;
  }
</style>
