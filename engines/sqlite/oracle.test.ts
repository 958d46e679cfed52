import { join } from 'node:path';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type Design, readDesign } from '../../core/design/index.js';
import { sqliteDialect } from '../../core/dialects/index.js';
import { loadByBatch, type Statement, type StatementResult } from '../../core/load/index.js';
import { type Entity, entityOf, type Role } from '../../core/model/index.js';
import { planQuery } from '../../core/plan/index.js';
import { joinKey, type Wire } from '../../core/values/index.js';
import { weave } from '../../core/walls/index.js';
import { makeDatabase } from '../../services/index.js';
import { arbitraryTree } from '../../tests/arbitrary-tree.js';
import { temporaryFolder } from '../../tests/database.js';
import { drive } from '../index.js';

type Key = string | number;

/** The keys of the rows behind a role, found by walking the tables row by row, with no SQL of the product's. */
function kinByHand(db: Database.Database, design: Design, role: Role, key: Key): string[] {
  const owner = entityOf(design.model, role.entity);
  const target = entityOf(design.model, role.target);
  const rowsOf = (table: string) => db.prepare(`select * from "${table}"`).all() as Record<string, unknown>[];
  const keyIn = (row: Record<string, unknown> | undefined, columns: readonly string[]): string | null => {
    const parts = columns.map((column) => row?.[column] ?? null);
    return parts.includes(null)
      ? null
      : parts.length === 1
        ? String(parts[0])
        : `[${parts.map((part) => JSON.stringify(part)).join(',')}]`;
  };
  const own = rowsOf(owner.table.value.name).find((row) => keyIn(row, owner.key.columns) === String(key));
  const targets = rowsOf(target.table.value.name);
  const keysWhere = (fits: (row: Record<string, unknown>) => boolean) =>
    targets.filter(fits).map((row) => keyIn(row, target.key.columns) ?? '');
  const { way } = role;
  switch (way.kind) {
    case 'key': {
      const sought = keyIn(own, way.columns);
      return sought === null ? [] : keysWhere((row) => keyIn(row, target.key.columns) === sought);
    }
    case 'child':
      return keysWhere((row) => keyIn(row, way.columns) === String(key));
    case 'path':
      return [];
    case 'pivot': {
      const pairs = rowsOf(way.table.name);
      const over = (from: readonly string[], to: readonly string[]) =>
        pairs.filter((pair) => keyIn(pair, from) === String(key)).map((pair) => keyIn(pair, to) ?? '');
      return [...over(way.near, way.far), ...(way.symmetric ? over(way.far, way.near) : [])];
    }
  }
}

function answer(db: Database.Database, design: Design, text: string, made: boolean): Record<string, unknown>[] {
  const { query, findings } = design.queryOf(text);
  if (query === null) throw new Error(findings.map((finding) => finding.message).join('\n'));
  const woven = weave(planQuery(design.model, query, { dialect: sqliteDialect, keysHold: made }));
  const execute = ({ sent, parameters }: Statement): StatementResult => ({
    rows: db.prepare(sent).raw().all(parameters) as unknown[][],
    milliseconds: 0,
  });
  return [
    ...drive(loadByBatch(sqliteDialect, { woven, parameters: {}, options: { typesHold: made, rowLimit: 100_000 } }), execute)
      .rows,
  ];
}

const keyIn = (row: Record<string, unknown>, entity: Entity) =>
  joinKey(
    entity.key.type,
    entity.key.fields.map((field) => row[field.name] as Wire),
  ) as Key;

test('for any model, what is loaded, asked for and counted over a role is what the tables say row by row', async () => {
  const folder = temporaryFolder();
  const path = join(folder.path, 'oracle.db');
  await fc.assert(
    fc.asyncProperty(arbitraryTree, async (text) => {
      const design = readDesign(text);
      const made = await makeDatabase(design, path);
      if (!made.ok) throw new Error(made.problem.message);
      const db = new Database(path, { readonly: true });
      for (const entity of design.model.entities.values()) {
        for (const role of entity.roles) {
          const target = entityOf(design.model, role.target);
          const loaded = answer(db, design, `from ${entity.name}\nload ${role.name}`, true);
          for (const row of loaded) {
            const kin = row[role.name] as Record<string, unknown>[] | Record<string, unknown> | null;
            const keys = (Array.isArray(kin) ? kin : kin === null ? [] : [kin]).map((other) => String(keyIn(other, target)));
            expect([...keys].sort()).toEqual(kinByHand(db, design, role, keyIn(row, entity)).sort());
          }
          // A database that others fill is read in another way, and says the same.
          expect(answer(db, design, `from ${entity.name}\nload ${role.name}`, false)).toEqual(loaded);
          const having = new Set(
            answer(db, design, `from ${entity.name}\nwhere any(${role.name})`, true).map((row) => keyIn(row, entity)),
          );
          const without = answer(db, design, `from ${entity.name}\nwhere none(${role.name})`, true).map((row) =>
            keyIn(row, entity),
          );
          for (const row of loaded) {
            const expected = kinByHand(db, design, role, keyIn(row, entity));
            expect(having.has(keyIn(row, entity))).toBe(expected.length > 0);
            expect(without.includes(keyIn(row, entity))).toBe(expected.length === 0);
          }
          const twice = answer(db, design, `from ${entity.name}\nwhere count(${role.name}) = 2`, true).map((row) =>
            String(keyIn(row, entity)),
          );
          const expected = loaded
            .filter((row) => new Set(kinByHand(db, design, role, keyIn(row, entity))).size === 2)
            .map((row) => String(keyIn(row, entity)));
          expect(twice.sort()).toEqual(expected.sort());
        }
      }
      db.close();
    }),
    { numRuns: 15, seed: 21 },
  );
  folder.remove();
}, 180_000);
