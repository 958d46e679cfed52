import { rm, stat } from 'node:fs/promises';
import { readDesign } from '../core/design/index.js';
import { fileEngine, openSqlite } from '../engines/index.js';
import { copySample } from '../services/index.js';
import { openGiven } from './place.js';
import { readText } from './report.js';

const LONGEST_COPY = 120_000;

/** Copies some rows of a database into a new SQLite file, with all that they point at. @throws with words for a person */
export async function copyRows(file: string, address: string, target: string, rows: number): Promise<void> {
  const there = await stat(target).then(
    () => true,
    () => false,
  );
  if (there) throw new Error(`${target} is there already. Name another file.`);
  const text = await readText(file);
  const source = await openGiven(address, LONGEST_COPY);
  const engine = openSqlite({ path: target, mode: 'make', milliseconds: LONGEST_COPY });
  try {
    const from = { design: readDesign(text, source.engine.dialect), engine: source.engine };
    const copied = await copySample(from, { design: readDesign(text, fileEngine.dialect), engine }, rows);
    if (!copied.ok) {
      await engine.close();
      for (const suffix of ['', '-wal', '-shm']) await rm(`${target}${suffix}`, { force: true });
      throw new Error(copied.problem.message);
    }
    const total = Object.values(copied.value.rows).reduce((sum, count) => sum + count, 0);
    for (const { table, constraint, rows: count } of copied.value.refused) {
      process.stderr.write(`${table}: ${count} ${count === 1 ? 'row' : 'rows'} not copied, ${constraint}\n`);
      process.exitCode = 1;
    }
    process.stderr.write(`${target}: ${total} rows of ${Object.keys(copied.value.rows).length} tables\n`);
  } finally {
    await engine.close();
    await source.close();
  }
}
