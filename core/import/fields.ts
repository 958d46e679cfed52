import { quoteText } from '../notation/index.js';
import type { Column, Table } from '../schema/index.js';
import { typeName, type ValueType } from '../values/index.js';
import { anyName, type ImportContext, isSayable } from './context.js';
import { defaultOf } from './defaults.js';
import type { ImportEngine } from './engines.js';
import { fullName, type GivenNames, isWritable, placeOf } from './existing.js';
import type { KeyLink } from './links.js';
import { written, writtenFirst } from './names.js';
import { isOwnNumbering, isOwnStyle } from './style.js';

/** Types that the notation does not let a key have. */
const NO_KEYS: readonly ValueType['kind'][] = ['json', 'bytes', 'real', 'boolean'];

/** The type of a key's column, which keeps its declaration where the notation has no such key. */
export function keyType({ typeOf }: ImportEngine, declared: string): ValueType {
  const type = typeOf(declared);
  return NO_KEYS.includes(type.kind) ? { kind: 'sql', declaration: declared } : type;
}

/** The name under which a table's row number can be read, which none of its columns takes. */
export function rowNumberOf({ numbersRows }: ImportEngine, table: Table): string | null {
  if (!numbersRows) return null;
  if (table.options.some((option) => /^without\s+rowid$/i.test(option))) return null;
  const taken = new Set(table.columns.map((column) => column.name.toLowerCase()));
  return ['rowid', '_rowid_', 'oid'].find((name) => !taken.has(name)) ?? null;
}

/** The field that a column is called by. A key column that bears its role's own name gives it to the role. */
export function fieldName(table: Table, column: string, given: GivenNames, links: readonly KeyLink[]): string {
  const known = given.fields.get(placeOf(fullName(table.name), column));
  if (known !== undefined) return known;
  const role = links.find((link) => link.role.toLowerCase() === column.toLowerCase());
  return role === undefined ? column : `${column}_id`;
}

/**
 * A field's line.
 *
 * @param key how the field says that it is the whole key: by a word of its own, by a line of the entity, or it is not
 * @param name what the field is called; its column's name unless another is given
 */
export function tellField(
  table: Table,
  column: Column,
  type: ValueType,
  key: 'word' | 'line' | 'none',
  telling: ImportContext,
  name = column.name,
): string {
  const { engine, style } = telling;
  const words = [writtenFirst(name), typeName(type)];
  const numbered = type.kind === 'bigint' || type.kind === 'integer';
  if (key !== 'none') {
    if (key === 'word') words.push('key');
    // The engines with servers let no null into a key, whatever its column says.
    if (numbered && column.notNull && engine.numbersRows) words.push('not null');
    if (!numbered && !column.notNull) words.push('optional');
    if (table.primaryKey.autoincrement) words.push('never reused');
  } else {
    if (!column.notNull) words.push('optional');
    if (table.uniques.some((unique) => unique.name === null && unique.columns.length === 1 && unique.columns[0] === column.name))
      words.push('unique');
  }
  if (column.default !== null) {
    const byDefault = defaultOf(engine, column.default, type);
    if (byDefault !== null) words.push(`default ${byDefault}`);
  }
  if (column.collation !== null && isWritable(column.collation)) words.push(`collate ${anyName(column.collation)}`);
  if (column.generated !== null && !/[\r\n]/.test(column.generated.sql))
    words.push(`generated as ${quoteText(column.generated.sql)}${column.generated.stored ? ' stored' : ''}`);
  const isNumbered = key !== 'none' && numbered && !engine.numbersRows;
  const asOwn = isNumbered ? isOwnNumbering(engine, style, column.type, type) : isOwnStyle(engine, style, column.type, type);
  if (!asOwn && !/[\r\n]/.test(column.type)) words.push(`stored as ${quoteText(column.type)}`);
  if (name !== column.name) words.push(`column ${written(column.name)}`);
  if (column.comment !== null && isSayable(column.comment)) words.push(`note ${quoteText(column.comment)}`);
  return words.join(' ');
}
