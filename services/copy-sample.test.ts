import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { openSqlite } from '../engines/index.js';
import { temporaryFolder } from '../tests/database.js';
import { checkRows, copySample, makeDatabase } from './index.js';

/** Copies a few rows of a text's samples, and gives what the rows of the copy do not hold to. */
async function copied(
  text: string,
  rows: number,
): Promise<{ faults: string[]; counts: Record<string, number>; refused: unknown }> {
  const folder = temporaryFolder();
  const design = readDesign(text);
  const made = await makeDatabase(design, join(folder.path, 'all.db'));
  if (!made.ok) throw new Error(made.problem.message);
  const from = openSqlite({ path: join(folder.path, 'all.db'), mode: 'look', milliseconds: 20_000 });
  const to = openSqlite({ path: join(folder.path, 'some.db'), mode: 'make', milliseconds: 20_000 });
  const outcome = await copySample({ design, engine: from }, { design, engine: to }, rows);
  if (!outcome.ok) throw new Error(outcome.problem.message);
  await Promise.all([from.close(), to.close()]);
  const copy = openSqlite({ path: join(folder.path, 'some.db'), mode: 'look', milliseconds: 20_000 });
  const codes = ['lost-key', 'half-key', 'kind-row', 'empty-required'];
  const { findings, unanswered } = await checkRows(design, copy, { sampleKeys: {}, codes });
  await copy.close();
  const db = new Database(join(folder.path, 'some.db'), { readonly: true });
  const counts = Object.fromEntries(
    Object.keys(outcome.value.rows).map((table) => [table, Number(db.prepare(`select count(*) from "${table}"`).pluck().get())]),
  );
  db.close();
  folder.remove();
  return { faults: [...findings, ...unanswered].map(({ message }) => message), counts, refused: outcome.value.refused };
}

describe('a copy of some rows', () => {
  test.each(['forms/forms.kin', 'forms/several.kin', 'forms/pairs.kin', 'apiary.kin'])(
    'of %s has all that they point at, whatever keeps that they do',
    async (file) => {
      const text = readFileSync(join(import.meta.dirname, '../tests', file), 'utf8');
      expect(await copied(text, 2)).toMatchObject({ faults: [], refused: [] });
    },
    600_000,
  );

  test('has the rows of a table that is somebody else’s, and what is pointed at without triggers', async () => {
    const { faults, counts } = await copied(
      `entity Customer in customers given
  id    integer key
  name  text(20)

entity Hall
  id  integer key

entity Remark
  id  integer key

relation of
  Remark knows one Customer as customer
  Customer knows many Remark as remarks

relation about
  Remark knows one Hall | Remark | Customer as about
  stored in Remark.about_type with Remark.about_id without triggers

sample Customer 30
sample Hall 30
sample Remark 40
`,
      3,
    );
    expect(faults).toEqual([]);
    expect(counts.customers).toBeGreaterThanOrEqual(3);
    expect(counts.remarks).toBeLessThan(40);
  });
});
