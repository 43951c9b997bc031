import { channelOf } from '$core/colour';
import type { KrombaDocument, MaskSource } from '$core/document';
import { opOf } from '$core/ops';
import { told } from '../numbers';

type Names = Pick<KrombaDocument, 'pictures' | 'masks'>;

/** A picture that a reference means, in words. */
export function referenceTold(
  { picture, after }: { picture: string; after?: string },
  { pictures }: Names
): string {
  const found = pictures.find((p) => p.id === picture);
  if (!found) return 'a missing picture';
  if (after === undefined) return found.name;
  if (after === 'head') return `${found.name} as it came`;
  const step = found.steps.find((s) => s.id === after);
  return `${found.name} after ${step ? (step.name ?? opOf(step.op).title) : 'a missing step'}`;
}

/** A source as a term of the list tells it. */
export function sourceTold(source: MaskSource, names: Names): string {
  switch (source.kind) {
    case 'channel': {
      const channel = channelOf(source.channel);
      return `${channel.name}${channel.ink ? ' ink' : ''}${source.of ? ` of ${referenceTold(source.of, names)}` : ''}`;
    }
    case 'mix':
      return Object.entries(source.weights)
        .map(
          ([id, w], i) =>
            `${i && w! >= 0 ? '+ ' : ''}${told(Math.round(100 * w!), 0)} % ${channelOf(id).name}`
        )
        .join(' ');
    case 'distance':
      return `near L ${told(source.to[0], 0)} a ${told(source.to[1], 0)} b ${told(source.to[2], 0)}`;
    case 'toward':
      return source.across ? `across hue ${told(source.hue, 0)}°` : `toward hue ${told(source.hue, 0)}°`;
    case 'paint':
      return source.strokes.length === 1 ? 'paint, 1 stroke' : `paint, ${source.strokes.length} strokes`;
    case 'ramp':
      return source.shape === 'round' ? 'round ramp' : 'straight ramp';
    case 'mask':
      return `mask “${names.masks.find((m) => m.id === source.id)?.name ?? 'missing'}”`;
  }
}
