<script lang="ts">
  import { arrowStep } from '../arrows';
  import type { Compare } from '../bench/compare.svelte';

  /** The line between two places that lie over each other. */
  let { compare }: { compare: Compare } = $props();

  let line: HTMLDivElement;
  let dragging = $state(false);

  const to = (split: number): void => compare.set({ split: Math.min(1, Math.max(0, split)) });

  function drag(event: PointerEvent): void {
    const box = line.parentElement?.getBoundingClientRect();
    if (!dragging || !box) return;
    to(compare.upright ? (event.clientX - box.left) / box.width : (event.clientY - box.top) / box.height);
  }

  function onkeydown(event: KeyboardEvent): void {
    const [right, down] = arrowStep(event);
    const by = (compare.upright ? right : down) * (event.shiftKey ? 0.1 : 0.01);
    if (by === 0) return;
    event.preventDefault();
    event.stopPropagation();
    to(compare.split + by);
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions (a separator that moves is a control: WAI-ARIA) -->
<div
  bind:this={line}
  class="divider"
  class:level={!compare.upright}
  role="separator"
  tabindex="0"
  aria-label="Divider"
  aria-orientation={compare.upright ? 'vertical' : 'horizontal'}
  aria-valuenow={Math.round(100 * compare.split)}
  style:--at="{100 * compare.split}%"
  title="Drag, or use the arrows; double-click for the middle"
  onpointerdown={(event) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    dragging = true;
  }}
  onpointermove={drag}
  onpointerup={() => (dragging = false)}
  onpointercancel={() => (dragging = false)}
  ondblclick={() => to(0.5)}
  {onkeydown}
>
  <span></span>
</div>

<style>
  .divider {
    position: absolute;
    top: 0;
    bottom: 0;
    left: var(--at);
    width: 15px;
    margin-left: -7px;
    cursor: ew-resize;
    touch-action: none;
  }
  .divider::before {
    content: '';
    position: absolute;
    inset: 0 7px;
    background: #fff;
    outline: 1px solid rgb(0 0 0 / 60%);
  }
  .divider span {
    position: absolute;
    top: 50%;
    left: 2px;
    width: 11px;
    height: 34px;
    margin-top: -17px;
    border: 1px solid rgb(0 0 0 / 60%);
    border-radius: 3px;
    background: var(--k-bone);
  }
  .level {
    top: var(--at);
    right: 0;
    bottom: auto;
    left: 0;
    width: auto;
    height: 15px;
    margin: -7px 0 0;
    cursor: ns-resize;
  }
  .level::before {
    inset: 7px 0;
  }
  .level span {
    top: 2px;
    left: 50%;
    width: 34px;
    height: 11px;
    margin: 0 0 0 -17px;
  }
</style>
