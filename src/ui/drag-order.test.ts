import { describe, expect, it } from 'vitest';
import type { DndEvent } from 'svelte-dnd-action';
import { DragOrder, type Dragged } from './drag-order.svelte';

interface Item {
  readonly id: string;
  readonly value: number;
}
const item = (id: string, value = 0): Item => ({ id, value });
const event = (items: Dragged<Item>[]): CustomEvent<DndEvent<Dragged<Item>>> =>
  new CustomEvent('finalize', { detail: { items } as DndEvent<Dragged<Item>> });

describe('the order of a list that is dragged', () => {
  it('is the very same while only what its items hold changes', () => {
    let list = [item('a'), item('b')];
    const order = new DragOrder(() => list);
    const before = order.items;
    list = [item('a', 1), item('b', 2)];
    expect(order.items).toBe(before);
    expect(order.items.map((one) => one.now().value)).toEqual([1, 2]);
    list = [item('b', 3), item('a', 4), item('c', 5)];
    expect(order.items.map(({ id }) => id)).toEqual(['b', 'a', 'c']);
    expect(order.items.map((one) => one.now().value)).toEqual([3, 4, 5]);
  });

  it('is the hand’s while it drags, with what comes from another list, and its own again behind it', () => {
    let list = [item('a', 1), item('b', 2)];
    const order = new DragOrder(() => list);
    const other = new DragOrder(() => [item('z', 9)]);
    const [a, b] = order.items;
    order.consider(event([b, other.items[0], a]));
    list = [item('a', 7), item('b', 2)];
    expect(order.items.map((one) => one.now())).toEqual([item('b', 2), item('z', 9), item('a', 7)]);
    expect(order.end(event([b, a]))).toEqual(['b', 'a']);
    expect(order.items.map(({ id }) => id)).toEqual(['a', 'b']);
  });

  it('keeps what an item stood for last where that is gone', () => {
    let list = [item('a', 1)];
    const order = new DragOrder(() => list);
    const [a] = order.items;
    list = [];
    expect(order.items).toEqual([]);
    expect(a.now()).toEqual(item('a', 1));
  });
});
