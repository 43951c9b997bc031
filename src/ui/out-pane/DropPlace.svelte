<script lang="ts">
  import { dndzone, TRIGGERS, type DndEvent } from 'svelte-dnd-action';

  /** A part of Out onto which chips of the path (`step`) or names of pictures (`picture`) are dragged. */
  interface Props {
    type: 'step' | 'picture';
    onput: (id: string) => void;
  }
  let { type, onput }: Props = $props();

  type Item = { id: string };
  let items = $state.raw<Item[]>([]);

  function finalize({ detail }: CustomEvent<DndEvent<Item>>): void {
    items = [];
    if (detail.info.trigger === TRIGGERS.DROPPED_INTO_ZONE) onput(detail.info.id);
  }
</script>

<ul
  class:over={items.length > 0}
  use:dndzone={{
    items,
    type,
    dragDisabled: true,
    dropTargetStyle: {},
    autoAriaDisabled: true,
    zoneTabIndex: -1,
    zoneItemTabIndex: -1
  }}
  onconsider={({ detail }: CustomEvent<DndEvent<Item>>) => (items = detail.items)}
  onfinalize={finalize}
>
  {#each items as item (item.id)}<li></li>{/each}
</ul>

<style>
  ul {
    position: absolute;
    inset: 0;
    margin: 0;
    padding: 0;
    list-style: none;
    pointer-events: none;
  }
  .over {
    background: rgb(227 217 195 / 12%);
    box-shadow: inset 0 0 0 2px var(--k-bone);
  }
</style>
