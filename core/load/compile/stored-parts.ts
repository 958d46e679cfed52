import type { Access, StoredPart, StoredTest } from '../../plan/index.js';
import { allOf, equal, number, type SqlExpression, string, tupleOf } from '../../sql/index.js';
import type { EngineValues, ValueType } from '../../values/index.js';
import { type Compiling, rowAt, type SourceRow } from './compiling.js';
import { SelectBuilder } from './select-builder.js';
import { storedName, storedReading } from './stored-reading.js';

/** A row of stored rows, in a select of its own. */
export function storedRow(compiling: Compiling, builder: SelectBuilder, access: Access, alias: string): SourceRow {
  if (access.over.kind !== 'stored') throw new Error(`access ${access.id} is over no stored rows`);
  builder.readAs(storedReading(compiling.model, access.over.rows, alias));
  return rowAt(builder, access, alias);
}

/** The SQL of a test or a value of a row as it is stored. */
export function storedSql(compiling: Compiling, { builder, alias }: SourceRow, { asks }: StoredPart): SqlExpression {
  const { values } = compiling;
  const at = (name: string) => builder.column(alias, '', name);
  switch (asks.kind) {
    case 'column':
      return at(asks.column);
    case 'field':
      return values.operand(asks.field.type, at(asks.field.column.value), false);
    case 'marked':
      return { kind: 'in', operand: at(asks.column), items: asks.marks.map(string), negated: asks.negated };
    case 'unlisted': {
      const { type, column } = asks.field;
      const items = asks.values.map((value) => values.literal(type, value));
      return { kind: 'in', operand: at(column.value), items, negated: true };
    }
    case 'unfit': {
      const operand = at(asks.field.column.value);
      const fits = values.fits(asks.field.type, compiling.print(operand), asks.declared);
      if (fits === null) return { kind: 'boolean', value: false };
      const filled: SqlExpression = { kind: 'is null', operand, negated: true };
      return allOf([filled, { kind: 'not', operand: { kind: 'written', sql: fits } }]) ?? filled;
    }
    case 'no json': {
      const json = at(asks.column);
      const isJson = values.isJson(json);
      const filled: SqlExpression = { kind: 'is null', operand: json, negated: true };
      return isJson === null ? { kind: 'boolean', value: false } : (allOf([filled, { kind: 'not', operand: isJson }]) ?? filled);
    }
    case 'other sort': {
      const json = at(asks.column);
      const isJson = values.isJson(json);
      const isNot: SqlExpression = { kind: 'not', operand: values.jsonIs(asks.sort, json, asks.name) };
      // What is no JSON at all is told for the base.
      return isJson === null ? isNot : { kind: 'case', branches: [{ when: isJson, then: isNot }], otherwise: { kind: 'null' } };
    }
    case 'out of order': {
      const ordered = (key: readonly string[]): SqlExpression =>
        tupleOf(asks.types.map((type, index) => values.ordered(type, at(key[index] ?? ''))));
      return { kind: 'binary', operator: '>=', left: ordered(asks.least), right: ordered(asks.greatest) };
    }
    case 'found':
      return found(compiling, { alias, builder }, asks);
    case 'given': {
      const types = asks.types.map((type) => values.listType(type));
      return { kind: 'in keys', operand: tupleOf(asks.columns.map(at)), parameter: 'keys', types };
    }
  }
}

/** Whether there is a row whose key is the one that these columns hold. */
function found(
  compiling: Compiling,
  { alias, builder: around }: Pick<SourceRow, 'alias' | 'builder'>,
  { there, columns, key, heldAsText, negated }: Extract<StoredTest, { kind: 'found' }>,
): SqlExpression {
  const named = there.over.kind === 'stored' ? storedName(compiling.model, there.over.rows) : '';
  const builder = new SelectBuilder(compiling.site, around.aliases);
  const row = storedRow(compiling, builder, there, named === alias ? 'there' : named);
  const own = builder.columns(row.alias, '', key);
  const held = around.columns(alias, '', columns);
  builder.conditions.push(heldAsText === null ? equal(own, held) : equalAsText(compiling.values, heldAsText, own, held));
  for (const condition of there.conditions) builder.conditions.push(compiling.sqlOf(row, condition));
  const select = builder.build({ columns: [{ expression: number(1), as: null }], orderBy: [], limit: null, offset: null });
  return { kind: 'exists', select, negated };
}

/** A key in a column that holds keys of several types, as texts: sought as what it is, and then compared to the letter. */
export function equalAsText(values: EngineValues, type: ValueType, own: SqlExpression, text: SqlExpression): SqlExpression {
  const sought = values.soughtKey(type, text);
  const exact = equal(values.toText(type, own), text);
  return sought === null ? exact : (allOf([equal(own, sought), exact]) ?? exact);
}
