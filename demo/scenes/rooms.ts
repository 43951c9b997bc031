import { box, slab, type Body, type Surface, type Vector } from '../scene';

/** A back wall at `z` with a window in it: the wall about the opening, the frame, the bars and the sill. */
export function wallWithWindow(
  z: number,
  [left, right, bottom, top]: readonly [left: number, right: number, bottom: number, top: number],
  [columns, rows]: readonly [number, number],
  wall: (x: number, y: number) => Surface,
  frame: Body['surface']
): Body[] {
  const FAR = 9;
  const thick = 0.18;
  const x = (left + right) / 2;
  const y = (bottom + top) / 2;
  const face: Body['surface'] = (px, py) => wall(px, py);
  const between = (from: Vector, to: Vector): Body =>
    slab(
      from.map((v, i) => (v + to[i]) / 2) as unknown as Vector,
      from.map((v, i) => Math.abs(to[i] - v) / 2) as unknown as Vector,
      face
    );
  const bar = 0.045;
  const uprights = Array.from({ length: columns + 1 }, (_, i) => left + ((right - left) * i) / columns);
  const across = Array.from({ length: rows + 1 }, (_, i) => bottom + ((top - bottom) * i) / rows);
  return [
    between([-FAR, 0, z - thick], [left, FAR, z]),
    between([right, 0, z - thick], [FAR, FAR, z]),
    between([left, 0, z - thick], [right, bottom, z]),
    between([left, top, z - thick], [right, FAR, z]),
    ...uprights.map((u) => slab([u, y, z - thick / 2], [bar, (top - bottom) / 2, bar], frame)),
    ...across.map((v) => slab([x, v, z - thick / 2], [(right - left) / 2, bar, bar], frame)),
    box([x, bottom - 0.05, z + 0.12], [(right - left) / 2 + 0.15, 0.05, 0.22], 0.02, frame)
  ];
}
