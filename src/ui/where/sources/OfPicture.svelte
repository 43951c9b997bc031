<script lang="ts">
  import type { Reference } from '$core/document';
  import type { Session } from '../../bench/session.svelte';
  import ReferenceSelect from '../ReferenceSelect.svelte';

  interface Props {
    session: Session;
    source: { of?: Reference };
    set: (label: string, change: (source: { of?: Reference }) => void) => void;
  }
  let { session, source, set }: Props = $props();
</script>

<ReferenceSelect
  {session}
  label="Of"
  own="this step’s input"
  value={source.of ?? null}
  onchange={(of) =>
    set('Mask from another picture', (s) => {
      if (of) s.of = of;
      else delete s.of;
    })}
/>
