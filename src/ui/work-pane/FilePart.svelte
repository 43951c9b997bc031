<script lang="ts">
  import type { FilePages } from '$core/raster/frame';
  import type { Session } from '../bench/session.svelte';

  interface Props {
    session: Session;
    /** The frame's id. */
    id: string;
    pages: FilePages;
  }
  let { session, id, pages }: Props = $props();

  function choose(hdu: number): void {
    session.change('Another part of a file', (draft) => {
      const frame = draft.frames.find((f) => f.id === id);
      if (!frame) return;
      frame.hdu = hdu;
      delete frame.plane;
    });
  }
</script>

<dl class="facts">
  <div>
    <dt>Part</dt>
    <dd>
      <select
        class="tool-choice"
        aria-label="Part of the file"
        value={pages.hdu}
        onchange={(event) => choose(Number(event.currentTarget.value))}
      >
        {#each pages.parts as part (part.hdu)}
          <option value={part.hdu}>{part.name}, {part.width} × {part.height}</option>
        {/each}
      </select>
    </dd>
  </div>
</dl>
