import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import type { Relation } from '../core/model/index.js';
import { schemaOf, type Table } from '../core/schema/index.js';
import { checkRows } from '../services/index.js';
import { ENGINES } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { carriesOut, type Engines, type Made, makeOn, openEngines } from '../tests/engines.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

/** A delete of the row that stands at a place in its table, in the order of the key. */
async function deleteAt({ design, database }: Made, table: Table, at: number): Promise<boolean | null> {
  const { quote } = design.dialect;
  const key = table.primaryKey.columns;
  const name = quote(table.name.name);
  const read = await database.engine.read(`select ${key.map(quote).join(', ')} from ${name}`, {});
  if (!read.ok) throw new Error(read.problem.message);
  const rows = read.value.map((row) => row.map((value) => `'${String(value).replaceAll("'", "''")}'`)).sort();
  const row = rows[at % Math.max(1, rows.length)];
  if (row === undefined) return null;
  const where = key.map((column, index) => `${quote(column)} = ${row[index]}`).join(' and ');
  const done = await database.engine.execute([`delete from ${name} where ${where}`]);
  return done.ok;
}

/** Keys that lead nowhere, but of relations that the text leaves to nobody. */
async function lostKeys({ design, database, made }: Made): Promise<string[]> {
  const { findings, unanswered } = await checkRows(design, database.engine, {
    sampleKeys: made.sampleKeys,
    codes: ['lost-key', 'half-key'],
  });
  expect(unanswered).toEqual([]);
  const alone = Array.from(design.model.relations.values()).filter(isLeftAlone);
  return findings.filter(({ span }) => !alone.some(({ head }) => head.start === span.start)).map(({ message }) => message);
}

function isLeftAlone(relation: Relation): boolean {
  if (relation.kind !== 'polymorphic' && relation.kind !== 'polymorphic pivot') return false;
  return relation.storage.kind === 'type and id' && !relation.storage.triggers;
}

async function countsOf({ design, database }: Made, tables: readonly Table[]): Promise<string> {
  const counts: string[] = [];
  for (const { name } of tables) {
    const read = await database.engine.read(`select count(*) from ${design.dialect.quote(name.name)}`, {});
    if (!read.ok) throw new Error(read.problem.message);
    counts.push(`${name.name} ${read.value[0]?.[0]}`);
  }
  return counts.join(', ');
}

test('for any model, whatever is deleted, nothing is left that points at what is gone, and engines delete alike', async () => {
  let done = 0;
  let refused = 0;
  await fc.assert(
    fc.asyncProperty(
      arbitraryTree,
      fc.array(fc.record({ table: fc.nat(), row: fc.nat() }), { minLength: 12, maxLength: 12 }),
      async (text, deletes) => {
        const all: Made[] = [];
        for (const name of ENGINES) if (carriesOut(name, text)) all.push(await makeOn(engines, name, text));
        for (const { table: pick, row } of deletes) {
          const outcomes: string[] = [];
          for (const made of all) {
            const { design } = made;
            const { tables } = schemaOf(design.model, design.dialect, { standIns: true }).schema;
            const keyed = tables.filter(({ primaryKey }) => primaryKey.columns.length > 0);
            const table = keyed[pick % keyed.length];
            if (table === undefined) return;
            const ok = await deleteAt(made, table, row);
            if (ok === true) done += 1;
            if (ok === false) refused += 1;
            outcomes.push(`${table.name.name} ${ok}: ${await countsOf(made, tables)}`);
          }
          // What MariaDB cannot carry out it refuses, and says so as a finding.
          const same = all.map((made, index) => (made.design.unkept.length > 0 ? outcomes[0] : outcomes[index]));
          expect(new Set(same).size, `${outcomes.join('\n')}\n${text}`).toBe(1);
        }
        for (const made of all) {
          expect(await lostKeys(made), `${made.name}\n${text}`).toEqual([]);
          await made.database.remove();
        }
      },
    ),
    { numRuns: 8, seed: 17, endOnFailure: true },
  );
  expect(done).toBeGreaterThan(50);
  expect(refused).toBeGreaterThan(20);
}, 240_000);
