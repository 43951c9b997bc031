<script lang="ts">
  import type { MeasuredSpread } from '$core/measure/star-spread';
  import { told } from '../numbers';

  interface Props {
    psf: NonNullable<MeasuredSpread['psf']>;
    measured: MeasuredSpread;
    /** Of the picture, in pixels. */
    size: { readonly width: number; readonly height: number };
  }
  let { psf, measured, size }: Props = $props();
  const { stars, mean } = $derived(measured);

  const [MAP, LARGEST] = [170, 9];
  const scale = $derived(MAP / Math.max(size.width, size.height));
  const widths = $derived(stars.map(({ fwhm }) => fwhm).sort((a, b) => a - b));
  const [least, most] = $derived([widths[0], widths[widths.length - 1]]);
  /** The narrowest star is a dot, the widest a disc. */
  const disc = $derived(
    (fwhm: number): number => 1.5 + (LARGEST - 1.5) * ((fwhm - least) / (most - least || 1))
  );

  let canvas = $state<HTMLCanvasElement>();
  $effect(() => {
    const context = canvas?.getContext('2d');
    if (!context) return;
    const side = Math.sqrt(mean.length);
    // The foot is a hundred times darker than the middle.
    const pixels = new ImageData(side, side);
    mean.forEach((v, i) => {
      pixels.data.fill(255 * Math.cbrt(Math.min(1, Math.max(0, v))), 4 * i, 4 * i + 3);
      pixels.data[4 * i + 3] = 255;
    });
    context.putImageData(pixels, 0, 0);
  });
</script>

<div class="pictures">
  <figure>
    <canvas
      bind:this={canvas}
      width={Math.sqrt(mean.length)}
      height={Math.sqrt(mean.length)}
      aria-label="The mean star"
    ></canvas>
    <figcaption class="quiet">the mean star</figcaption>
  </figure>
  <figure>
    <svg
      viewBox={`0 0 ${size.width * scale} ${size.height * scale}`}
      role="img"
      aria-label={`Where the ${stars.length} stars stand; the wider the star, the larger the disc`}
    >
      <rect width="100%" height="100%" fill="#161616" />
      {#each stars as { x, y, fwhm } (`${x} ${y}`)}
        <circle cx={x * scale} cy={y * scale} r={disc(fwhm)} fill="#cfcabd" fill-opacity="0.75" />
      {/each}
    </svg>
    <figcaption class="quiet">width over the frame, {told(least, 2)} to {told(most, 2)} px</figcaption>
  </figure>
</div>
<table class="mono found" aria-label="Measured from the stars">
  <tbody>
    <tr><th scope="row">stars</th><td>{stars.length}</td></tr>
    <tr><th scope="row">width (FWHM), px</th><td>{told(psf.fwhm, 2)}</td></tr>
    <tr><th scope="row">roundness, %</th><td>{told(100 * psf.ratio, 1)}</td></tr>
    <tr><th scope="row">longer at, °</th><td>{told(psf.angle, 0)}</td></tr>
    <tr><th scope="row">foot (β)</th><td>{told(psf.beta, 2)}</td></tr>
  </tbody>
</table>

<style>
  .pictures {
    display: flex;
    gap: 8px;
  }
  figure {
    margin: 0;
  }
  canvas {
    display: block;
    width: 92px;
    height: 92px;
    image-rendering: pixelated;
  }
  svg {
    display: block;
    width: 170px;
    max-height: 120px;
  }
  figcaption {
    margin-top: 4px;
    font-size: 12px;
  }
</style>
