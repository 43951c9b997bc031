import { describe, expect, it } from 'vitest';
import { lookOf, parseDocument } from '../document';
import { evaluate } from '../path/evaluate';
import { noiseFrame, planOf } from '../testing';
import { ownLooks } from './own';

const document = parseDocument({ kromba: 1, kind: 'document', name: 'Any' });

describe('Kromba’s own looks', () => {
  it('are twelve, under names of their own, and travel whole', () => {
    expect(ownLooks).toHaveLength(12);
    expect(new Set(ownLooks.map(({ look }) => look.name)).size).toBe(12);
    for (const { look } of ownLooks) {
      expect(look.note).toMatch(/\.$/);
      expect(lookOf(document, look.steps, { name: look.name, note: look.note })).toEqual({ look, told: [] });
    }
  });

  it.each(ownLooks.map(({ look }) => [look.name, look] as const))(
    '%s changes a picture, and leaves nothing missing',
    (_, look) => {
      const frame = noiseFrame(96, 64);
      const all = { x: 0, y: 0, width: 96, height: 64 };
      const [before, after] = [[], look.steps].map((steps) => evaluate(planOf(frame, steps), 0, all).planes);
      let moved = 0;
      before.forEach((plane, c) =>
        plane.forEach((v, i) => {
          expect(after[c][i]).not.toBeNaN();
          moved += Math.abs(after[c][i] - v);
        })
      );
      expect(moved / (3 * 96 * 64)).toBeGreaterThan(0.01);
    }
  );
});
