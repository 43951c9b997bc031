import type { DndEvent, Options } from 'svelte-dnd-action';

interface Identified {
  readonly id: string | number;
}

/** What a list under the hand is made of: it stays the same thing while what it stands for changes. */
export interface Dragged<T extends Identified> {
  readonly id: T['id'];
  /** What it stands for now; as it was last where that is gone. */
  readonly now: () => T;
}

/**
 * The order of a list whose items are dragged: its own, or the hand's while that drags. It is another only where the order
 * is: what an item holds may change as often as a slider moves, and the list is not to be made ready for dragging each time.
 */
export class DragOrder<T extends Identified> {
  private dragged = $state.raw<Dragged<T>[] | null>(null);
  private known: Dragged<T>[] = [];
  private readonly own = $derived.by(() => {
    const list = this.list();
    const same = list.length === this.known.length && list.every(({ id }, i) => id === this.known[i].id);
    if (!same) this.known = list.map((item) => this.standingFor(item));
    return this.known;
  });
  readonly items = $derived(this.dragged ?? this.own);

  /** @param list the items in their own order, asked for anew when it may have changed */
  constructor(private readonly list: () => readonly T[]) {}

  private standingFor(item: T): Dragged<T> {
    const now = (): T => this.list().find(({ id }) => id === item.id) ?? item;
    return { id: item.id, now };
  }

  consider = ({ detail }: CustomEvent<DndEvent<Dragged<T>>>): void => {
    this.dragged = detail.items;
  };

  /** Ends the dragging. @returns the items' ids in the order in which they were left */
  end({ detail }: CustomEvent<DndEvent<Dragged<T>>>): T['id'][] {
    this.dragged = null;
    return detail.items.map(({ id }) => id);
  }
}

/** How such a list is dragged, here as everywhere: `type` goes to lists of the same type; keys are the list's own. */
export const dragging = <T extends Identified>(items: Dragged<T>[], type: string): Options<Dragged<T>> => ({
  items,
  type,
  flipDurationMs: 120,
  dropTargetStyle: {},
  delayTouchStart: true,
  autoAriaDisabled: true,
  zoneTabIndex: -1,
  zoneItemTabIndex: -1
});
