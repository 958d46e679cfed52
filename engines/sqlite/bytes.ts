import type { Table } from '../../core/schema/index.js';
import type { Engine } from '../engine.js';
import { rawRows } from '../raw-rows.js';

/** How many bytes tables take up in their file, with their indexes (https://www.sqlite.org/dbstat.html). */
export async function bytesOf(engine: Engine, tables: readonly Table[]): Promise<number> {
  const names = tables.flatMap(({ name, indexes, uniques }) => [
    name.name,
    ...indexes.map((index) => index.name),
    ...uniques.map((_, at) => `sqlite_autoindex_${name.name}_${at + 1}`),
  ]);
  const list = names.map((name) => `'${name.replaceAll("'", "''")}'`).join(', ');
  const read = await rawRows(engine, `select coalesce(sum(pgsize), 0) from dbstat where name in (${list})`);
  return read.ok ? Number(read.value[0]?.[0] ?? 0) : 0;
}
