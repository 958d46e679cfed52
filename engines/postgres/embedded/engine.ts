import { dialects } from '../../../core/dialects/index.js';
import { askingEngine } from '../../asking.js';
import { type Child, openChild } from '../../child.js';
import type { Engine } from '../../engine.js';
import { programFile } from '../../program-file.js';

const CHILD_FILE = programFile('engines/postgres/embedded/child');
const MOST_MEMORY_MB = 2048;

export interface EmbeddedOptions {
  /** The folder that the engine keeps its data in; `memory` for none. */
  readonly folder: string;
  /** What a person calls it, in messages. */
  readonly label: string;
  /** How long one call may take. */
  readonly milliseconds: number;
}

/** An embedded PostgreSQL, in which each schema can be used as a database of its own. */
export interface Embedded {
  /** The engine on one schema; null for the one that is there from the start. Closing it leaves the process running. */
  at(place: string | null): Engine;
  close(): Promise<void>;
}

/** Opens an embedded PostgreSQL in a child process. It starts with the first call: some seconds the first time, then one. */
export function openEmbedded({ folder, label, milliseconds }: EmbeddedOptions): Embedded {
  const child: Child = openChild({
    file: CHILD_FILE,
    args: [folder, label, String(milliseconds)],
    milliseconds,
    memoryMegabytes: MOST_MEMORY_MB,
  });
  return {
    at: (place) =>
      askingEngine(
        dialects.postgres,
        (ask, options) => child.call(ask, place, options),
        () => Promise.resolve(),
      ),
    close: child.close,
  };
}
