<script lang="ts">
  import type { Attachment } from 'svelte/attachments';

  interface Props {
    /** What it shows, by its id. */
    id: string;
    /** The file of a small picture, where there is one yet. */
    read: (id: string) => Promise<Blob | null>;
    /** Counts the changes of what it shows: with each, it is read anew. */
    changes?: number;
    /** What stands there where it can't be read. */
    none?: string;
  }
  let { id, read, changes = 0, none = '' }: Props = $props();

  // By value: the card's document is a new object with each change of any other.
  const of = $derived(id);
  const change = $derived(changes);

  let place: HTMLElement;
  let seen = $state(false);
  /** Nothing is known of it before it was read. */
  let picture = $state.raw<ImageBitmap | null>();

  // A picture is read and decoded only while its card is near to view: there may be hundreds.
  $effect(() => {
    const observer = new IntersectionObserver(([entry]) => (seen = entry.isIntersecting), {
      rootMargin: '160px'
    });
    observer.observe(place);
    return () => observer.disconnect();
  });

  $effect(() => {
    if (!seen) return;
    void change;
    let ended = false;
    read(of)
      .then((blob) => blob && createImageBitmap(blob))
      .then((bitmap) => {
        if (ended) bitmap?.close();
        else picture = bitmap;
      })
      // A small picture that can't be read is one that is not there yet.
      .catch(() => void (ended || (picture = null)));
    return () => (ended = true);
  });
  $effect(() => {
    if (!seen) picture = undefined;
  });

  /** Of an image element the browser would keep what it decoded long after it is gone; a canvas is given back at once. */
  const draw =
    (bitmap: ImageBitmap): Attachment<HTMLCanvasElement> =>
    (canvas) => {
      canvas.width = bitmap.width;
      canvas.height = bitmap.height;
      canvas.getContext('2d')?.drawImage(bitmap, 0, 0);
      // As soon as it is drawn: it is never drawn again.
      bitmap.close();
      return () => (canvas.width = canvas.height = 0);
    };
</script>

<span class="place" bind:this={place}>
  {#if seen && picture}<canvas aria-hidden="true" {@attach draw(picture)}
    ></canvas>{:else if seen && picture === null}<span class="none">{none}</span>{/if}
</span>

<style>
  .place {
    display: grid;
    grid-template: 100% / 100%;
    height: 100%;
  }
  canvas {
    width: 100%;
    height: 100%;
    object-fit: contain;
    aspect-ratio: 3 / 2;
  }
  .none {
    place-self: center;
    color: var(--k-text-quiet);
  }
</style>
