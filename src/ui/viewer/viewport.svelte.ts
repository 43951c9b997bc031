/** Zooms are device pixels a picture pixel; places are in picture pixels. */
export interface Placement {
  readonly zoom: number;
  /** Picture coordinates at the middle of the view. */
  readonly x: number;
  readonly y: number;
}

export interface Size {
  readonly width: number;
  readonly height: number;
}

const LARGEST_ZOOM = 32;
const SMALLEST_ZOOM = 1 / 64;
/** Steps of the zoom keys. */
const STOPS = [1 / 16, 1 / 8, 1 / 4, 1 / 3, 1 / 2, 2 / 3, 1, 2, 3, 4, 6, 8, 12, 16, 24, 32];

/** How much closer a turn of the wheel goes. */
export const wheelFactor = ({ deltaY, deltaMode }: WheelEvent): number =>
  Math.exp(-deltaY * (deltaMode === 1 ? 0.05 : 0.0016));

export const fitZoom = (picture: Size, view: Size): number =>
  Math.min(view.width / picture.width, view.height / picture.height);

/** A picture shown whole in a view. */
export const wholePlacement = (picture: Size, view: Size): Placement => ({
  zoom: fitZoom(picture, view),
  x: picture.width / 2,
  y: picture.height / 2
});

/** Where a picture is looked at. Out sets it; In and the wall follow. */
export class Viewport {
  picture = $state<Size>({ width: 1, height: 1 });
  /** Device pixels of the Out view. */
  view = $state<Size>({ width: 1, height: 1 });
  fit = $state(true);
  private wanted = $state<Placement>({ zoom: 1, x: 0, y: 0 });

  readonly placement = $derived<Placement>(this.fit ? this.fitted(this.view) : this.wanted);

  private fitted(view: Size): Placement {
    return wholePlacement(this.picture, view);
  }

  /** The part of the picture that stands in the view, in whole pixels. */
  get seenPart(): { x: number; y: number; width: number; height: number } {
    const { zoom, x, y } = this.placement;
    const [w, h] = [this.view.width / zoom / 2, this.view.height / zoom / 2];
    const [left, top] = [Math.max(0, Math.round(x - w)), Math.max(0, Math.round(y - h))];
    const right = Math.min(this.picture.width, Math.round(x + w));
    const bottom = Math.min(this.picture.height, Math.round(y + h));
    return { x: left, y: top, width: Math.max(1, right - left), height: Math.max(1, bottom - top) };
  }

  /** The same look for a view of another size: the twin keeps the zoom, a small one shows the same part. */
  placementFor(view: Size, small: boolean): Placement {
    if (this.fit) return this.fitted(view);
    if (!small) return this.wanted;
    const part = Math.min(view.width / this.view.width, view.height / this.view.height);
    return { ...this.wanted, zoom: this.wanted.zoom * part };
  }

  /** @returns brings back how it is looked at now */
  remembered(): () => void {
    const { fit, wanted } = this;
    return () => {
      this.fit = fit;
      this.wanted = wanted;
    };
  }

  showWhole(): void {
    this.fit = true;
  }

  /** Zooms so that the picture place under `at` (view pixels from the middle) stays where it is. */
  zoomTo(
    zoom: number,
    at: { x: number; y: number } = { x: 0, y: 0 },
    from: Placement = this.placement
  ): void {
    const next = Math.min(
      LARGEST_ZOOM,
      Math.max(Math.min(SMALLEST_ZOOM, fitZoom(this.picture, this.view)), zoom)
    );
    const x = from.x + at.x / from.zoom - at.x / next;
    const y = from.y + at.y / from.zoom - at.y / next;
    this.fit = false;
    this.place({ zoom: next, x, y });
  }

  /** To the next stop in or out. */
  stepZoom(direction: 1 | -1): void {
    const { zoom } = this.placement;
    const next =
      direction > 0 ? STOPS.find((s) => s > zoom * 1.001) : STOPS.findLast((s) => s < zoom * 0.999);
    if (next !== undefined) this.zoomTo(next);
  }

  panBy(dx: number, dy: number, from: Placement = this.placement): void {
    this.fit = false;
    this.place({ zoom: from.zoom, x: from.x - dx / from.zoom, y: from.y - dy / from.zoom });
  }

  /** Keeps at least the picture's edge in the middle of the view. */
  private place({ zoom, x, y }: Placement): void {
    const { width, height } = this.picture;
    this.wanted = { zoom, x: Math.min(width, Math.max(0, x)), y: Math.min(height, Math.max(0, y)) };
  }
}
