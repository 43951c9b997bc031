<script lang="ts">
  import StepAmount from './StepAmount.svelte';
  import { paramsOf } from '$core/ops/op';
  import { trouble } from '../bench/trouble.svelte';
  import { Follower } from '../bench/follower.svelte';
  import { Select, SelectItem, Toggle } from 'carbon-components-svelte';
  import { modelOf } from '$core/colour';
  import { COOLEST, gainsOfLight, lightOfGains, WARMEST, type Light } from '$core/colour/light';
  import { decode, encode } from '$core/colour/transfer';
  import { fromNeutral } from '$core/measure/difference';
  import {
    balanceMethods,
    type BalanceMethod,
    type BalanceParams,
    balance as op,
    type SkyWhite
  } from '$core/ops/balance';
  import { swatch } from '../channel-colour';
  import Amount from './Amount.svelte';
  import Choice from './Choice.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  const METHODS: Record<BalanceMethod, string> = {
    fixed: 'Numbers set by hand',
    grey: 'The average is grey',
    bright: 'The brightest is white',
    ends: 'Each channel end to end',
    pins: 'Neutral pins are neutral',
    sky: 'The sky background is neutral'
  };
  const LETTERS = ['r', 'g', 'b'] as const;
  const params = $derived(paramsOf(op, step));
  const channels = modelOf('rgb').channels;
  const neutrals = $derived(session.cursor.pins.filter((p) => p.role === 'neutral'));

  interface Numbers {
    gain: readonly number[];
    offset: readonly number[];
    whiteBy?: number;
  }
  interface Residual {
    id: string;
    name: string;
    value: number;
  }
  const solving = new Follower('what the balance solves', async (method: BalanceParams['method']) => {
    const numbers = (await bench.solved()) as Numbers | null;
    return { numbers, residuals: method === 'pins' && numbers ? await leftOver(numbers) : [] };
  });
  const solved = $derived(solving.value?.numbers ?? null);
  const residuals = $derived(solving.value?.residuals ?? []);
  $effect(() => {
    void bench.session.cursor.active;
    void session.cursor.pins;
    void trouble.round;
    if (params.method === 'fixed') solving.clear();
    else solving.ask(params.method);
  });

  /** How far each neutral pin is from neutral after the balance. */
  async function leftOver({ gain }: Numbers): Promise<Residual[]> {
    const places = neutrals.map(({ x, y, size }) => ({ x: x + 0.5, y: y + 0.5, size }));
    const values = await bench.readInput(places);
    const decodes = params.light === 'linear' && session.cursor.encoding === 'coded';
    return neutrals.flatMap(({ id, name }, i) => {
      const rgb = values[i];
      if (!rgb) return [];
      const after = rgb.map((v, c) => (decodes ? encode(decode(v) * gain[c]) : v * gain[c]));
      return [{ id, name, value: fromNeutral(after, session.cursor.encoding) }];
    });
  }

  const numbers = $derived<Numbers>(
    params.method === 'fixed'
      ? { gain: LETTERS.map((l) => params.gain[l]), offset: LETTERS.map((l) => params.offset[l]) }
      : (solved ?? { gain: [1, 1, 1], offset: [0, 0, 0] })
  );

  const whiteBy = $derived(solving.value?.numbers?.whiteBy);
  const NO_WHITE: Record<Exclude<SkyWhite, 'left'>, string> = {
    stars: 'No star stands out that is not clipped.',
    pins: 'No neutral pin is above the sky in all channels.',
    part: 'What was seen is not above the sky in all channels.'
  };

  function setWhite(white: SkyWhite): void {
    session.changeParams(op, 'White above the sky', (p) => {
      p.white = white;
      if (white === 'part') p.part = bench.viewport.seenPart;
    });
  }

  function freeze(): void {
    const { gain, offset } = numbers;
    session.changeStep('Freeze the balance', (draft) => {
      const p = paramsOf(op, draft);
      LETTERS.forEach((l, c) => {
        p.gain[l] = gain[c];
        p.offset[l] = offset[c];
      });
      p.method = 'fixed';
    });
  }

  /**
   * The light that these gains make neutral: its white, x, is what they take to 1. Null where something is added or taken away
   * as well, which no light does.
   */
  const light = $derived.by<Light | null>(() => {
    if (numbers.offset.some((o) => o !== 0) || (params.method !== 'fixed' && !solved)) return null;
    const inLight = (g: number): number =>
      params.light === 'linear' || session.cursor.encoding === 'linear'
        ? g
        : 1 / decode(1 / Math.max(g, 1e-3));
    return lightOfGains(numbers.gain.map(inLight) as [number, number, number]);
  });
  const PLAIN: Light = { temperature: 6504, tint: 0 };

  function setLight(change: Partial<Light>, gesture: string): void {
    const [r, g, b] = gainsOfLight({ ...(light ?? PLAIN), ...change });
    session.changeStep(
      'Colour of the light',
      (draft) => {
        const p = paramsOf(op, draft);
        p.method = 'fixed';
        p.light = 'linear';
        p.gain = { r, g, b };
        p.offset = { r: 0, g: 0, b: 0 };
      },
      gesture
    );
  }
</script>

<div class="panel">
  <Select
    size="sm"
    labelText="Method"
    selected={params.method}
    on:update={({ detail }) => {
      const method = detail as BalanceMethod;
      if (method !== params.method) session.changeParams(op, METHODS[method], (p) => (p.method = method));
    }}
  >
    {#each balanceMethods as method (method)}<SelectItem value={method} text={METHODS[method]} />{/each}
  </Select>
  <div class="options">
    <Toggle
      size="sm"
      hideLabel
      labelText="Linear light"
      labelA="Linear light"
      labelB="Linear light"
      toggled={params.light === 'linear'}
      on:toggle={({ detail }) => {
        const light = detail.toggled ? 'linear' : 'coded';
        if (light !== params.light)
          session.changeParams(op, 'Balance in other light', (p) => (p.light = light));
      }}
    />
    {#if params.method !== 'fixed'}
      <button class="tool raised" disabled={!solved} onclick={freeze}>Freeze these numbers</button>
    {/if}
  </div>
  {#if params.method === 'sky'}
    <Choice
      legend="White above the sky"
      upright
      value={params.white}
      values={[
        ['left', 'as it is'],
        ['stars', 'the usual star'],
        ['pins', 'neutral pins'],
        ['part', 'what is seen']
      ]}
      onchange={(white) => setWhite(white)}
    />
    {#if params.white === 'part'}
      <button class="tool raised" onclick={() => setWhite('part')}>Take what is seen now</button>
    {/if}
    {#if params.white !== 'left' && whiteBy === 0}
      <p class="warn" role="status">{NO_WHITE[params.white]} Its white was left.</p>
    {:else if params.white === 'stars' && whiteBy}
      <p class="quiet" role="status">By {whiteBy} stars.</p>
    {/if}
  {/if}
  {#if params.method === 'pins' && neutrals.length === 0}
    <p class="warn" role="status">
      There is no pin of role <i>neutral</i> yet. Drop one with <b class="mono">P</b> on a thing that ought to be
      grey.
    </p>
  {:else if params.method === 'pins'}
    <table class="mono" aria-label="Left from neutral">
      <tbody>
        {#each residuals as { id, name, value } (id)}
          <tr><th>{name}</th><td>ΔE {value.toFixed(2)} left</td></tr>
        {/each}
      </tbody>
    </table>
  {/if}
  {#if params.method === 'ends'}
    <StepAmount {session} {step} {op} path={['ends']} name="Balance clip" />
  {/if}
  {#each ['gain', 'offset'] as const as part (part)}
    <h3>{part === 'gain' ? 'Gain' : 'Offset'}</h3>
    {#each channels as c, i (c.id)}
      <StepAmount
        {session}
        {step}
        {op}
        path={[part, LETTERS[i]]}
        value={numbers[part][i]}
        label={c.name}
        name={`${part} of ${c.name}`}
        change={`${part} of ${c.name}`}
        colour={swatch(c.id)}
        disabled={params.method !== 'fixed'}
      />
    {/each}
  {/each}
  <h3>The light was</h3>
  {#if light}
    <Amount
      label="temperature"
      name="Temperature of the light in kelvin"
      unit=""
      value={Math.round(light.temperature)}
      neutral={6504}
      min={WARMEST}
      max={COOLEST}
      log
      step={100}
      digits={0}
      oninput={(temperature) => setLight({ temperature }, 'temperature')}
      onend={() => session.endGesture()}
    />
    <Amount
      label="tint"
      name="Tint of the light"
      unit=""
      value={Math.round(10 * light.tint) / 10}
      neutral={0}
      min={-40}
      max={40}
      grain={0.5}
      oninput={(tint) => setLight({ tint }, 'tint')}
      onend={() => session.endGesture()}
    />
    <p class="quiet">
      Kelvin, and how far it lay towards green (+) or magenta (−).
      {params.method === 'fixed'
        ? 'Setting it writes the gains.'
        : 'As the picture was solved; setting it ends that and writes the gains.'}
    </p>
  {:else}
    <p class="quiet">Something is added or taken away here: no light of one colour does that.</p>
  {/if}
</div>

<style>
  .options {
    display: flex;
    align-items: center;
    justify-content: space-between;
    min-height: 36px;
    margin-top: 4px;
  }
  h3 {
    margin: 8px 0 2px;
    font-weight: 600;
    font-size: 12px;
  }
  table {
    width: 100%;
    font-size: 12px;
  }
  th {
    font-weight: 400;
    text-align: left;
  }
  td {
    text-align: right;
  }
  p {
    margin: 6px 0 0;
    font-size: 12px;
  }
</style>
