import { describe, expect, it, vi } from 'vitest';
import { Hand } from './hand.svelte';

const pick = (id: string): { id: string; label: string; pick: () => void } => ({
  id,
  label: id,
  pick: vi.fn()
});
const clipping = { clipped: ['rgb.r'], ends: 'low' } as const;
const held = (hand: Hand): unknown[] => [hand.picking?.id, hand.painting, hand.clipping !== null];

describe('the hand', () => {
  it('holds one thing at a time', () => {
    const hand = new Hand();
    expect(held(hand)).toEqual([undefined, false, false]);
    hand.paint(true);
    hand.pick(pick('a colour'));
    expect(held(hand)).toEqual(['a colour', false, false]);
    hand.pick(pick('a pin'));
    expect(held(hand)).toEqual(['a pin', false, false]);
    // The same again lays it down.
    hand.pick(pick('a pin'));
    expect(held(hand)).toEqual([undefined, false, false]);
  });

  it('goes on with what it held when clipped samples have been looked at', () => {
    const hand = new Hand();
    hand.paint(true);
    hand.look(clipping);
    expect(held(hand)).toEqual([undefined, true, true]);
    hand.look({ ...clipping, ends: 'high' });
    hand.look(null);
    hand.look(null);
    expect(held(hand)).toEqual([undefined, true, false]);
    hand.drop();
    expect(held(hand)).toEqual([undefined, false, false]);
  });

  it('lays down a panel’s own pick and no other', () => {
    const hand = new Hand();
    hand.pick(pick('a colour, another'));
    hand.drop('a tone');
    hand.paint(false);
    expect(hand.picking?.id).toBe('a colour, another');
    hand.drop('a colour');
    expect(hand.picking).toBeNull();
    hand.paint(true);
    hand.straightenBy('crop');
    expect([hand.painting, hand.straighten]).toEqual([false, 'crop']);
  });
});
