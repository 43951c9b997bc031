<script lang="ts">
  import type { Library } from '$storage/library';

  interface Props {
    library: Library | null;
    /** Id of the document. */
    id: string;
    /** Counts its changes: with each, the small picture is read anew. */
    changes: number;
  }
  let { library, id, changes }: Props = $props();

  // By value: the card's document is a new object with each change of any other.
  const of = $derived(id);
  const change = $derived(changes);

  let place: HTMLElement;
  let seen = $state(false);
  let image = $state('');

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
    let url = '';
    let ended = false;
    library
      ?.thumbnail(of)
      .then((blob) => {
        if (blob && !ended) image = url = URL.createObjectURL(blob);
      })
      // A small picture that can't be read is one that is not there yet.
      .catch(() => undefined);
    return () => {
      ended = true;
      image = '';
      URL.revokeObjectURL(url);
    };
  });
</script>

<span class="place" bind:this={place}>
  {#if seen && image}<img src={image} alt="" />{:else if seen}<span class="none">no picture yet</span>{/if}
</span>

<style>
  .place {
    display: grid;
    grid-template: 100% / 100%;
    height: 100%;
  }
  img {
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
