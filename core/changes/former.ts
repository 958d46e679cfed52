import type { Entity, Model } from '../model/index.js';
import type { EntityLine, EntitySyntax, MixinSyntax, PhysicalName, RelationSyntax, Syntax } from '../notation/index.js';
import type { TableName } from '../sql/index.js';
import { columnKey, type FormerColumn, type FormerNames, tableKey } from './pairs.js';

/**
 * What a text says that its tables and columns were called (`was`): of an entity's table, a field's column, a pivot's table, and a
 * relation's key. `was OTHER.column` says that the values stood in the table of another entity.
 */
export function formerNamesOf(syntax: Syntax, model: Model): FormerNames {
  const tables = new Map<string, TableName>();
  const columns = new Map<string, FormerColumn>();
  const mixins = new Map(syntax.declarations.flatMap((one) => (one.kind === 'mixin' ? [[one.name.text, one] as const] : [])));
  for (const one of syntax.declarations) {
    if (one.kind === 'entity') {
      const entity = model.entities.get(one.name.text);
      if (entity === undefined) continue;
      if (one.was !== null) tables.set(tableKey(entity.table.value), tableOf(one.was, entity.table.value));
      for (const line of linesOf(one, mixins)) fieldWas(model, entity, line, columns);
    } else if (one.kind === 'relation') relationWas(model, one, tables, columns);
  }
  return { tables, columns };
}

/** The lines of an entity and of the mixins that it takes in. */
function linesOf({ lines }: EntitySyntax, mixins: ReadonlyMap<string, MixinSyntax>): readonly EntityLine[] {
  return lines.flatMap((line) =>
    line.kind === 'uses' ? line.mixins.flatMap(({ text }) => mixins.get(text)?.lines ?? []) : [line],
  );
}

function fieldWas(model: Model, entity: Entity, line: EntityLine, columns: Map<string, FormerColumn>): void {
  if (line.kind !== 'field') return;
  const field = entity.fields.find(({ name }) => name === line.name.text);
  for (const modifier of line.modifiers) {
    if (modifier.kind !== 'was' || field === undefined) continue;
    const other = modifier.entity === null ? entity : model.entities.get(modifier.entity.text);
    if (other === undefined) continue;
    columns.set(columnKey(entity.table.value, field.column.value), { table: other.table.value, column: modifier.name.text });
  }
}

function relationWas(
  model: Model,
  { lines }: RelationSyntax,
  tables: Map<string, TableName>,
  columns: Map<string, FormerColumn>,
): void {
  for (const line of lines) {
    if (line.kind !== 'stored') continue;
    const { store, was } = line;
    if (store.kind === 'table') {
      const table = tableOf(store.table, { schema: null, name: '' });
      if (was !== null) tables.set(tableKey(table), tableOf(was, table));
      for (const own of line.lines) {
        const said = own.kind === 'field' ? own.modifiers.find(({ kind }) => kind === 'was') : undefined;
        if (own.kind === 'field' && said?.kind === 'was')
          columns.set(columnKey(table, own.name.text), { table, column: said.name.text });
      }
    } else if (was !== null && (store.kind === 'column' || store.kind === 'typed')) {
      const table = model.entities.get(store.entity.text)?.table.value;
      const column = store.kind === 'column' ? store.column.text : store.id.text;
      if (table !== undefined) columns.set(columnKey(table, column), { table, column: was.name.text });
    }
  }
}

/** A former name stands in the schema of the present one where it says none. */
function tableOf({ schema, name }: PhysicalName, present: TableName): TableName {
  return { schema: schema?.text ?? present.schema, name: name.text };
}
