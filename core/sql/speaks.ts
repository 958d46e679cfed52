import { placeOf, type TableName } from './statement.js';

/** Whether a part of a statement takes a column of a source, also in selects within. */
export function speaksOf(part: unknown, source: string): boolean {
  return somewhere(part, (value) => 'kind' in value && value.kind === 'column' && 'source' in value && value.source === source);
}

/** Whether a part of a statement reads a table, also in selects within. */
export function reads(part: unknown, table: TableName): boolean {
  const wanted = placeOf(table);
  return somewhere(
    part,
    (value) => 'kind' in value && value.kind === 'table' && 'table' in value && placeOf(value.table as TableName) === wanted,
  );
}

/** Whether something holds of a statement, or of any part of it: it is plain data, so every part is reached in the same way. */
function somewhere(part: unknown, holds: (value: object) => boolean): boolean {
  if (typeof part !== 'object' || part === null) return false;
  if (!Array.isArray(part) && holds(part)) return true;
  return Object.values(part).some((inner) => somewhere(inner, holds));
}
