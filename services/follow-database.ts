import { readDesign } from '../core/design/index.js';
import { dialects } from '../core/dialects/index.js';
import { type BroughtAgain, bringAgain } from '../core/revisions/index.js';
import { fileEngine, type Outcome } from '../engines/index.js';
import type { BroughtIn } from './bring-in.js';

const LONGEST_MAKE = 60_000;

/**
 * The edits by which a text follows a database that has changed. What the database was is what the text makes: its
 * tables are made in a scratch database and read back, so that both sides are told by an engine.
 *
 * @param scratch where that database may be made
 */
export async function followDatabase(text: string, brought: BroughtIn, scratch: string): Promise<Outcome<BroughtAgain>> {
  const engine = fileEngine.open({ path: scratch, mode: 'make', milliseconds: LONGEST_MAKE, label: 'The tables of the text' });
  try {
    const made = await engine.make({
      before: dialects[fileEngine.dialect].createStatements(readDesign(text).schema),
      inserts: [],
      keys: [],
      after: [],
      marked: false,
    });
    if (!made.ok) return made;
    const before = await engine.introspect();
    return before.ok ? { ok: true, value: bringAgain(text, before.value, brought.existing) } : before;
  } finally {
    await engine.close();
  }
}
