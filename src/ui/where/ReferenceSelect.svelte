<script lang="ts">
  import { Select, SelectItem } from 'carbon-components-svelte';
  import { referenceKey, wayTo, type Reference } from '$core/document';
  import { opOf } from '$core/ops';
  import type { Session } from '../bench/session.svelte';

  interface Props {
    session: Session;
    label: string;
    /** What is meant without a reference. */
    own: string;
    value: Reference | null;
    onchange: (value: Reference | null) => void;
  }
  let { session, label, own, value, onchange }: Props = $props();

  let problem = $state('');
  /** Places that a step may take from: this picture before the step, and every other picture, at its end or head. */
  const options = $derived.by(() => {
    const { document } = session;
    const { picture, step } = session.cursor;
    const list: { reference: Reference; title: string }[] = [
      { reference: { picture: picture.id, after: 'head' }, title: 'this picture as it came' },
      ...(step ? wayTo(picture.steps, step.id).slice(0, -1) : []).map((s) => ({
        reference: { picture: picture.id, after: s.id },
        title: `this picture after ${s.name ?? opOf(s.op).title}`
      })),
      ...document.pictures
        .filter((p) => p.id !== picture.id)
        .flatMap((p) => [
          { reference: { picture: p.id }, title: p.name },
          ...(p.steps.length
            ? [{ reference: { picture: p.id, after: 'head' }, title: `${p.name}, as it came` }]
            : [])
        ])
    ];
    if (value && !list.some(({ reference }) => referenceKey(reference) === referenceKey(value)))
      list.push({ reference: value, title: 'another place' });
    return list.map((o) => ({ ...o, key: referenceKey(o.reference) }));
  });
  const selected = $derived(value ? referenceKey(value) : '');

  async function choose(key: string): Promise<void> {
    if (key === selected) return;
    problem = '';
    const reference = options.find((o) => o.key === key)?.reference ?? null;
    if (reference && reference.picture !== session.cursor.picture.id) {
      const picture = session.document.pictures.find((p) => p.id === reference.picture)!;
      try {
        const { head: size } = await session.shapeOf(picture.id);
        const { width, height } = session.cursor.head;
        if (size.width !== width || size.height !== height) {
          problem = `“${picture.name}” is ${size.width} × ${size.height} pixels and this picture ${width} × ${height}. A step takes only from pictures of its own size; nothing was changed.`;
          return;
        }
      } catch (error) {
        problem = (error as Error).message;
        return;
      }
    }
    onchange(reference);
  }
</script>

<Select
  size="sm"
  labelText={label}
  {selected}
  on:update={({ detail }) => void choose(String(detail))}
  invalid={problem !== ''}
  invalidText={problem}
>
  <SelectItem value="" text={own} />
  {#each options as { key, title } (key)}<SelectItem value={key} text={title} />{/each}
</Select>
