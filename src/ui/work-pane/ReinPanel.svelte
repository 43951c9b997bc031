<script lang="ts">
  import { paramsOf } from '$core/ops/op';
  import { rein as op, type ReinParams } from '$core/ops/rein';
  import ChangedShare from './ChangedShare.svelte';
  import Choice from './Choice.svelte';
  import type { PanelProps } from './panels';
  import StepAmount from './StepAmount.svelte';
  import Switch from './Switch.svelte';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));

  function set(what: string, change: (p: ReinParams) => void): void {
    session.changeParams(op, `Rein in: ${what}`, change);
  }
</script>

<div class="panel stacked">
  <Choice
    legend="Hold"
    value={params.channel}
    values={[
      ['r', 'red'],
      ['g', 'green'],
      ['b', 'blue']
    ]}
    onchange={(channel) => set('channel', (p) => (p.channel = channel))}
  />
  <Choice
    legend="Where it is"
    value={params.side}
    values={[
      ['over', 'over, down'],
      ['under', 'under, up']
    ]}
    onchange={(side) => set('side', (p) => (p.side = side))}
  />
  <Choice
    legend="To what the other two have"
    value={params.to}
    values={[
      ['mean', 'the mean'],
      ['larger', 'the larger'],
      ['smaller', 'the smaller']
    ]}
    onchange={(to) => set('to', (p) => (p.to = to))}
  />
  <StepAmount {session} {step} {op} path={['amount']} name="Rein in amount" />
  <Switch
    label="Give the light back"
    on={params.keepLight}
    onchange={(on) => set('light', (p) => (p.keepLight = on))}
  />
  <ChangedShare {bench} {step} />
</div>
