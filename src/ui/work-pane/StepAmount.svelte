<script lang="ts" generics="P">
  import type { Step } from '$core/document';
  import { controlAt, putAt, valueAt, type ControlPath } from '$core/ops/controls';
  import type { Op } from '$core/ops/op';
  import type { Session } from '../bench/session.svelte';
  import Amount from './Amount.svelte';

  interface Props {
    session: Session;
    step: Step;
    op: Pick<Op<P>, 'id' | 'title' | 'params'>;
    /** Where in the step's parameters the number stands; what it is called, its unit and its bounds its schema says. */
    path: ControlPath;
    /** Names the field to screen readers, with what it belongs to. */
    name: string;
    /** Where it is called otherwise here. */
    label?: string;
    /** What a change of it is called in the history, where its label alone does not tell it. */
    change?: string;
    /** What is shown where that is not what the parameters hold, in their own unit. */
    value?: number;
    /** What a double-click on the label goes back to, in the parameter's own unit, where that is not its default. */
    neutral?: number;
    colour?: string;
    disabled?: boolean;
  }
  let { session, step, op, path, name, label, change, value, neutral, colour, disabled }: Props = $props();

  const control = $derived(controlAt(op.params, path));
  const called = $derived(label ?? control.label);
</script>

<Amount
  {...control}
  label={called}
  {name}
  value={(value ?? valueAt(step.params, path)) / control.worth}
  neutral={(neutral ?? control.usual) / control.worth}
  {colour}
  {disabled}
  oninput={(v) =>
    session.changeStep(
      `${op.title}: ${change ?? called}`,
      (draft) => putAt(draft.params, path, v * control.worth),
      path.join(' ')
    )}
  onend={() => session.endGesture()}
/>
