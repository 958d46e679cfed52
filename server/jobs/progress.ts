import type { WorkStep } from '../../contract/index.js';

/** The progress of long pieces of work, for whoever waits for them. */
export class Progress {
  private readonly watchers = new Map<string, (step: WorkStep) => void>();
  private readonly last = new Map<string, WorkStep>();

  /** A function that tells the work of this name on; the last step stays until the work is done. */
  begin(job: string): { step(what: string, share?: number): void; done(): void } {
    return {
      step: (what, share) => {
        const step = share === undefined ? { what } : { what, share };
        this.last.set(job, step);
        this.watchers.get(job)?.(step);
      },
      done: () => {
        this.last.delete(job);
      },
    };
  }

  /** Calls back with the step that the work is at, and each that follows, until the function given back is called. */
  watch(job: string, watcher: (step: WorkStep) => void): () => void {
    this.watchers.set(job, watcher);
    const last = this.last.get(job);
    if (last !== undefined) watcher(last);
    return () => this.watchers.delete(job);
  }
}
