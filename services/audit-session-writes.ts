import type { Dialect } from '../core/dialects/index.js';
import { type Entity, entityOf, hasTable } from '../core/model/index.js';
import { allOf, type Change, column, type SqlExpression } from '../core/sql/index.js';
import { splitKey, type Wire } from '../core/values/index.js';
import type { AuditedReads, Tried, TriedWay } from './audit-reads.js';
import { witnessOf } from './audit-witnesses.js';
import type { WriteTo } from './audit-writes.js';

/** What a session that reached a row fails with. */
const TOUCHED = 'a row out of reach was touched';

/** Tries to change and to delete a row that the policies of a database are to keep from somebody, in a session of theirs. */
export async function* sessionWriteWays(
  reads: AuditedReads,
  { engine }: WriteTo,
  said: readonly string[],
  name: string,
): AsyncGenerator<TriedWay> {
  const { model, dialect } = reads.lookedAt.design;
  const entity = entityOf(model, name);
  const { policies } = dialect;
  const kept = hasTable(entity) ? await witnessOf(reads, name, 'change', 'out of reach') : null;
  if (policies === null || kept === null) return;
  for (const { way, change } of changesOf(entity, isRow(dialect, entity, kept.key))) {
    const statement = dialect.printChange(change);
    const outcome = await engine.execute([policies.fails(said, statement, TOUCHED)]);
    const tried: Tried =
      outcome.ok || !outcome.problem.message.includes(TOUCHED)
        ? { kind: 'held' }
        : { kind: 'other', difference: { path: 'what was written', told: [kept.key], expected: [] }, statement };
    yield { way, text: statement, tried };
  }
}

/** The changes of one row: another value is not needed to tell whether it is reached. */
function changesOf(
  { table, key }: Entity,
  where: SqlExpression | null,
): readonly { readonly way: string; readonly change: Change }[] {
  const set = key.columns.map((name) => ({ column: name, value: column(null, name) }));
  return [
    { way: 'update in a session', change: { kind: 'update', table: table.value, set, where } },
    { way: 'delete in a session', change: { kind: 'delete', from: table.value, where } },
  ];
}

function isRow({ values }: Dialect, { key }: Entity, value: Wire): SqlExpression | null {
  const parts = splitKey(key.type, value);
  return allOf(
    key.fields.map(
      (field, at): SqlExpression => ({
        kind: 'binary',
        operator: '=',
        left: column(null, field.column.value),
        right: values.literal(field.type, parts[at] ?? null),
      }),
    ),
  );
}
