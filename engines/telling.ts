import type { Progress } from './engine.js';

/** How whoever waits for a long call is told of it, and tells that it waits no longer. */
export interface Telling {
  progress(done: Progress): void;
  isStopped(): boolean;
}
