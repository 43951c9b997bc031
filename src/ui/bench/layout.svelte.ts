import { z } from 'zod';

/** How a person has laid out the bench; remembered in this browser. */
const layoutSchema = z.object({
  inFolded: z.boolean(),
  workFolded: z.boolean(),
  surround: z.enum(['dark', 'middle', 'light'])
});
type Layout = z.infer<typeof layoutSchema>;

const KEY = 'kromba-bench';
const usual: Layout = { inFolded: false, workFolded: false, surround: 'dark' };

function remembered(): Layout {
  try {
    const result = layoutSchema.safeParse(JSON.parse(localStorage.getItem(KEY) ?? ''));
    return result.success ? result.data : usual;
  } catch {
    return usual;
  }
}

/** Strictly neutral surrounds of the stage. */
export const surrounds = { dark: '#262626', middle: '#777777', light: '#c8c8c8' } as const;

export class BenchLayout {
  private value = $state<Layout>(remembered());

  get inFolded(): boolean {
    return this.value.inFolded;
  }
  get workFolded(): boolean {
    return this.value.workFolded;
  }
  get surround(): Layout['surround'] {
    return this.value.surround;
  }

  set(change: Partial<Layout>): void {
    this.value = { ...this.value, ...change };
    localStorage.setItem(KEY, JSON.stringify(this.value));
  }
}
