import { trouble } from './trouble.svelte';

/** Does one piece of work at a time; of what is asked for meanwhile, only the newest is done next. */
export class Newest {
  private busy = false;
  private next: (() => Promise<void>) | null = null;

  /** @param what is worked on, as a person is told where it fails */
  constructor(private readonly what: string) {}

  ask(work: () => Promise<void>): void {
    this.next = work;
    if (!this.busy) void this.run();
  }

  private async run(): Promise<void> {
    this.busy = true;
    for (let work = this.next; work; work = this.next) {
      this.next = null;
      try {
        await work();
        trouble.clear(this.what);
      } catch (error) {
        // What comes meanwhile makes up for it.
        if (!this.next) trouble.tell(this.what, error);
      }
    }
    this.busy = false;
  }
}
