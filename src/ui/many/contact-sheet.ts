import type { Item } from './many.svelte';

/** Pixels: of one of the two pictures of a file, of the room about them, and of the line under them. */
const [WIDTH, HEIGHT, GAP, LINE] = [280, 210, 14, 26];
const COLUMNS = 3;
/** What a canvas holds in all browsers. */
const TALLEST = 16_000;

/** How many files one sheet holds. */
export const SHEET_HOLDS = COLUMNS * Math.floor((TALLEST - GAP) / (HEIGHT + LINE + GAP));

/** Every file as it came beside what was made of it, with its name. @param items of which there are small pictures */
export async function contactSheet(items: readonly Item[]): Promise<Blob> {
  const rows = Math.ceil(items.length / COLUMNS);
  const cell = { width: 2 * WIDTH + 2, height: HEIGHT + LINE };
  const canvas = new OffscreenCanvas(
    GAP + COLUMNS * (cell.width + GAP),
    GAP + Math.max(1, rows) * (cell.height + GAP)
  );
  const context = canvas.getContext('2d')!;
  context.fillStyle = '#1c1c1c';
  context.fillRect(0, 0, canvas.width, canvas.height);
  for (const [i, { name, small }] of items.entries()) {
    const x = GAP + (i % COLUMNS) * (cell.width + GAP);
    const y = GAP + Math.floor(i / COLUMNS) * (cell.height + GAP);
    context.fillStyle = '#262626';
    context.fillRect(x, y, cell.width, HEIGHT);
    for (const [k, address] of [small?.before, small?.after].entries()) {
      if (!address) continue;
      const picture = await createImageBitmap(await (await fetch(address)).blob());
      const scale = Math.min(WIDTH / picture.width, HEIGHT / picture.height);
      const [w, h] = [picture.width * scale, picture.height * scale];
      context.drawImage(picture, x + k * (WIDTH + 2) + (WIDTH - w) / 2, y + (HEIGHT - h) / 2, w, h);
      picture.close();
    }
    context.fillStyle = '#f0efec';
    context.font = '14px "IBM Plex Sans", sans-serif';
    context.fillText(shortened(context, name, cell.width), x, y + HEIGHT + 18);
  }
  return canvas.convertToBlob({ type: 'image/jpeg', quality: 0.9 });
}

/** A text that is no wider than so many pixels. */
function shortened(context: OffscreenCanvasRenderingContext2D, text: string, width: number): string {
  let letters = Array.from(text);
  if (context.measureText(text).width <= width) return text;
  while (letters.length > 1 && context.measureText(`${letters.join('')}…`).width > width)
    letters = letters.slice(0, -1);
  return `${letters.join('')}…`;
}
