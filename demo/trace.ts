import { randomStream } from '../src/core/random';
import type { Body, Scene, Surface, Vector } from './scene';

const FAR = 60;
const HIT = 0.0015;
const MOST_STEPS = 90;
const EDGE_SAMPLES = 8;
const SHADOW_SAMPLES = 6;
const MORE_SHADOW_SAMPLES = 26;
const NOWHERE: Vector = [0, 0, 0];

const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const scaled = (a: Vector, s: number): Vector => [a[0] * s, a[1] * s, a[2] * s];
const plus = (a: Vector, b: Vector): Vector => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const unit = (a: Vector): Vector => scaled(a, 1 / Math.hypot(...a));
const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0]
];

/** Distance along the ray to the body (sphere tracing, Hart 1996), or Infinity. */
function march(body: Body, from: Vector, along: Vector, most: number): number {
  if (body.meets) return body.meets(from, along, most);
  const to = minus(body.centre, from);
  const middle = dot(to, along);
  const miss = dot(to, to) - middle * middle;
  const chord = body.radius * body.radius - miss;
  if (chord < 0) return Infinity;
  const half = Math.sqrt(chord);
  const end = Math.min(most, middle + half);
  let t = Math.max(0, middle - half);
  for (let i = 0; i < MOST_STEPS && t < end; i++) {
    const d = body.distance(from[0] + along[0] * t, from[1] + along[1] * t, from[2] + along[2] * t);
    if (d < HIT) return t;
    t += d;
  }
  return Infinity;
}

interface Hit {
  readonly id: number;
  readonly t: number;
}

const SKY = -1;
const FLOOR = -2;
const WALL = -3;

function nearest(scene: Scene, from: Vector, along: Vector): Hit {
  let hit: Hit = { id: SKY, t: FAR };
  const down = along[1] < 0 ? -from[1] / along[1] : Infinity;
  if (down < hit.t && from[2] + down * along[2] > (scene.floorEnds ?? -Infinity))
    hit = { id: FLOOR, t: down };
  if (scene.wall !== null && along[2] < 0) {
    const t = (scene.wall - from[2]) / along[2];
    if (t < hit.t) hit = { id: WALL, t };
  }
  scene.bodies.forEach((body, id) => {
    const t = march(body, from, along, hit.t);
    if (t < hit.t) hit = { id, t };
  });
  return hit;
}

function normalOf(body: Body, [x, y, z]: Vector): Vector {
  const e = 0.003;
  return unit([
    body.distance(x + e, y, z) - body.distance(x - e, y, z),
    body.distance(x, y + e, z) - body.distance(x, y - e, z),
    body.distance(x, y, z + e) - body.distance(x, y, z - e)
  ]);
}

/** The part of a light that is seen from a point, by rays to spots on it. */
function visible(scene: Scene, point: Vector, light: Scene['lights'][number], random: () => number): number {
  const flat = light.facing ?? NOWHERE;
  const seen = (count: number): number => {
    let sum = 0;
    for (let i = 0; i < count; i++) {
      const spot = plus(light.at, [
        (random() - 0.5) * 2 * light.size * (1 - Math.abs(flat[0])),
        (random() - 0.5) * 2 * light.size * (1 - Math.abs(flat[1])),
        (random() - 0.5) * 2 * light.size * (1 - Math.abs(flat[2]))
      ]);
      const to = minus(spot, point);
      const distance = Math.hypot(...to);
      const along = scaled(to, 1 / distance);
      sum += scene.bodies.some((body) => march(body, point, along, distance) < Infinity) ? 0 : 1;
    }
    return sum;
  };
  const { shadowRays = SHADOW_SAMPLES } = scene;
  const first = seen(shadowRays);
  if (first === 0 || first === shadowRays) return first / shadowRays;
  return (first + seen(MORE_SHADOW_SAMPLES)) / (shadowRays + MORE_SHADOW_SAMPLES);
}

/** Linear light that comes along a ray. */
function shade(scene: Scene, from: Vector, along: Vector, { id, t }: Hit, random: () => number): Vector {
  if (id === SKY) return scene.sky(...along);
  const point = plus(from, scaled(along, t));
  const normal: Vector =
    id === FLOOR ? [0, 1, 0] : id === WALL ? [0, 0, 1] : normalOf(scene.bodies[id], point);
  const surface: Surface =
    id === FLOOR
      ? scene.floor(point[0], point[2])
      : id === WALL
        ? scene.wallSurface(point[0], point[1])
        : scene.bodies[id].surface(...point);
  const lifted = plus(point, scaled(normal, 4 * HIT));
  let close = 1;
  for (const [i, body] of scene.bodies.entries()) {
    // Contact shade: a body near by hides a part of the sky.
    if (i === id) continue;
    const probe = plus(point, scaled(normal, 0.25));
    const reach = Math.hypot(...minus(probe, body.centre)) - body.radius;
    if (reach < 0.4) close *= 0.55 + 0.45 * Math.min(1, Math.max(0, body.distance(...probe) / 0.25));
  }
  const bounce = 0.75 + 0.25 * normal[1];
  let light = scaled(scene.ambient, close * bounce);
  let shine: Vector = [0, 0, 0];
  const mirrored = minus(along, scaled(normal, 2 * dot(along, normal)));
  const fresnel = 0.04 + 0.96 * (1 - Math.max(0, -dot(along, normal))) ** 5;
  for (const lamp of scene.lights) {
    const to = minus(lamp.at, point);
    const distance2 = dot(to, to);
    const direction = scaled(to, 1 / Math.sqrt(distance2));
    const facing = dot(direction, normal);
    const sent = lamp.facing ? -dot(direction, lamp.facing) : 1;
    if (facing <= 0 || sent <= 0) continue;
    const part = sent * visible(scene, lifted, lamp, random);
    light = plus(light, scaled(lamp.colour, (part * facing * 20) / distance2));
    const width = Math.atan(lamp.size / Math.sqrt(distance2));
    const off = Math.acos(Math.min(1, Math.max(-1, dot(mirrored, direction))));
    const glare = Math.exp(-((off / (width + 0.06)) ** 4));
    shine = plus(shine, scaled(lamp.colour, part * glare * surface.gloss * (6 * fresnel + 0.25)));
  }
  const environment = scaled(scene.ambient, surface.gloss * fresnel * (0.6 + 0.6 * Math.max(0, mirrored[1])));
  const c = surface.colour;
  const seen = plus(plus([c[0] * light[0], c[1] * light[1], c[2] * light[2]], shine), environment);
  return scene.medium ? scene.medium(seen, t, point) : seen;
}

/** The scene in linear light, interleaved RGB. Edges are sampled several times. */
export function trace(scene: Scene, width: number, height: number): Float32Array {
  const { at, towards, angle } = scene.camera;
  const forward = unit(minus(towards, at));
  const right = unit(cross(forward, [0, 1, 0]));
  const up = cross(right, forward);
  const scale = Math.tan(angle / 2) / (width / 2);
  const random = randomStream(77);
  const ray = (x: number, y: number): Vector =>
    unit(plus(forward, plus(scaled(right, (x - width / 2) * scale), scaled(up, (height / 2 - y) * scale))));
  const out = new Float32Array(width * height * 3);
  const ids = new Int16Array(width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const along = ray(x + 0.5, y + 0.5);
      const hit = nearest(scene, at, along);
      ids[y * width + x] = hit.id;
      out.set(shade(scene, at, along, hit, random), (y * width + x) * 3);
    }
  }
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const id = ids[i];
      if (id === ids[i - 1] && id === ids[i + 1] && id === ids[i - width] && id === ids[i + width]) continue;
      let sum: Vector = [out[3 * i], out[3 * i + 1], out[3 * i + 2]];
      for (let s = 0; s < EDGE_SAMPLES; s++) {
        const along = ray(x + random(), y + random());
        sum = plus(sum, shade(scene, at, along, nearest(scene, at, along), random));
      }
      out.set(scaled(sum, 1 / (EDGE_SAMPLES + 1)), 3 * i);
    }
  }
  return out;
}
