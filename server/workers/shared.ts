/** One piece of work that several callers wait for: it is stopped when the last of them has gone, and not before. */
export class Shared<Result> {
  readonly result: Promise<Result>;
  private readonly stopping = new AbortController();
  private waiting = 0;

  constructor(begin: (signal: AbortSignal) => Promise<Result>) {
    this.result = begin(this.stopping.signal);
  }

  /** Nobody waits for it any more, so it has been stopped. */
  get stopped(): boolean {
    return this.stopping.signal.aborted;
  }

  /** Waits for the result, until the caller goes. */
  wait(signal: AbortSignal): Promise<Result> {
    this.waiting += 1;
    const gone = () => {
      this.waiting -= 1;
      if (this.waiting === 0) this.stopping.abort();
    };
    if (signal.aborted) gone();
    else signal.addEventListener('abort', gone, { once: true });
    return this.result.finally(() => signal.removeEventListener('abort', gone));
  }
}
