import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Design, readDesign } from '../core/design/index.js';
import { type Engine, openSqlite } from '../engines/index.js';
import { type MadeDatabase, makeDatabase, type RunAnswer, type RunRequest, runQuery } from '../services/index.js';

/** A folder of its own for a test, and a way to be rid of it. */
export function temporaryFolder(): { path: string; remove(): void } {
  const path = mkdtempSync(join(tmpdir(), 'family-tree-'));
  return { path, remove: () => rmSync(path, { recursive: true, force: true }) };
}

export interface TestDatabase {
  readonly design: Design;
  readonly engine: Engine;
  readonly made: MadeDatabase;
  readonly path: string;
  /** Runs a query's text (or a saved one's name) and gives its rows. @throws where there is no answer */
  rows(query: string, parameters?: RunRequest['parameters'], head?: string): Promise<Record<string, unknown>[]>;
  answer(query: string, parameters?: RunRequest['parameters'], options?: Partial<RunRequest>): Promise<RunAnswer>;
  close(): Promise<void>;
}

/** A real SQLite database made from a text, with its samples. */
export async function makeTestDatabase(text: string): Promise<TestDatabase> {
  const folder = temporaryFolder();
  const design = readDesign(text);
  const errors = design.findings.filter((finding) => finding.weight === 'error');
  if (errors.length > 0) throw new Error(errors.map((finding) => finding.message).join('\n'));
  const path = join(folder.path, 'test.db');
  const made = await makeDatabase(design, path);
  if (!made.ok) throw new Error(made.problem.message);
  const engine = openSqlite({ path, mode: 'look', milliseconds: 20_000 });
  const answer: TestDatabase['answer'] = async (query, parameters = {}, options = {}) => {
    const outcome = await runQuery(design, engine, {
      query: /^\w+$/.test(query) ? { kind: 'saved', name: query } : { kind: 'text', text: query, parameters: [] },
      parameters,
      sampleKeys: made.value.sampleKeys,
      madeHere: true,
      rowLimit: 100_000,
      ...options,
    });
    if (!outcome.ok) throw new Error([...outcome.findings.map((finding) => finding.message), ...outcome.problems].join('\n'));
    return outcome.answer;
  };
  return {
    design,
    engine,
    made: made.value,
    path,
    answer,
    rows: async (query, parameters) => JSON.parse((await answer(query, parameters)).text) as Record<string, unknown>[],
    close: async () => {
      await engine.close();
      folder.remove();
    },
  };
}
