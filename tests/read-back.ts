import { isDeepStrictEqual } from 'node:util';
import type { Design } from '../core/design/index.js';
import { schemaOf, type Table, type TableTrigger, triggerName } from '../core/schema/index.js';
import type { MadeTree } from './engines.js';
import { shapeOf } from './shape.js';

/** A made database as its text wishes it, and as its engine reads it back: tables, columns, keys, rules, indexes, triggers. */
export async function wishedAndRead({ design, database, name }: MadeTree): Promise<{ wished: unknown; read: unknown }> {
  const { schema } = schemaOf(design.model, design.dialect, { standIns: true });
  const back = await database.engine.introspect();
  if (!back.ok) throw new Error(back.problem.message);
  // MariaDB has triggers for checks over columns that a rule empties; nothing else made them.
  const tables = schema.tables.map((table) => ({ ...table, triggers: [...table.triggers, ...checkTriggersOf(design, table)] }));
  const likeMariadb = name === 'mariadb';
  return { wished: shapeOf(tables, likeMariadb), read: shapeOf(back.value.schema.tables, likeMariadb) };
}

/** @throws where an engine reads back anything else than was made */
export async function expectReadBack(made: MadeTree, text: string): Promise<void> {
  const { wished, read } = await wishedAndRead(made);
  if (!isDeepStrictEqual(read, wished))
    throw new Error(
      `${made.name} reads back\n${JSON.stringify(read)}\nwhere there was made\n${JSON.stringify(wished)}\n\nThe text:\n${text}`,
    );
}

/** The triggers that a dialect makes of checks, beside those of the schema. */
function checkTriggersOf({ dialect }: Design, table: Table): TableTrigger[] {
  const own = new Set(table.triggers.map(triggerName));
  return dialect.createStatements({ prelude: [], tables: [table], others: [] }).flatMap((sql) => {
    const name = /^create trigger ("[^"]+"|`[^`]+`|\S+)/i.exec(sql)?.[1]?.replace(/^["`]|["`]$/g, '');
    return name === undefined || own.has(name) ? [] : [{ kind: 'written' as const, name, sql }];
  });
}
