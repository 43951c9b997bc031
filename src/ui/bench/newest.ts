/** Does one piece of work at a time; of what is asked for meanwhile, only the newest is done next. */
export class Newest {
  private busy = false;
  private next: (() => Promise<void>) | null = null;

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
      } catch (error) {
        // The next change asks again.
        console.error(error);
      }
    }
    this.busy = false;
  }
}
