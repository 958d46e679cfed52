import {
  type AnyPivotRelation,
  type Entity,
  entityOf,
  holdingsOf,
  lineage,
  type Model,
  type Relation,
  storedColumnTypes,
} from '../model/index.js';
import type { ValueType, Wire } from '../values/index.js';
import type { MadeColumn, MadeRow, MadeTable } from './made.js';

const TEXT: ValueType = { kind: 'text', length: null };

/** The columns that an entity declares itself: of its fields, and of the relations whose keys it holds. */
function ownColumns(model: Model, entity: Entity): MadeColumn[] {
  const columns = new Map<string, ValueType>();
  const add = (name: string, type: ValueType) => {
    if (!columns.has(name)) columns.set(name, type);
  };
  for (const field of entity.fields)
    if (field.owner === entity.name && field.physical.generated === null) add(field.column.value, field.type);
  for (const relation of model.relations.values())
    for (const { name, type } of heldBy(model, relation, entity.name)) add(name, type);
  return Array.from(columns, ([name, type]) => ({ name, type }));
}

/** The columns that a relation puts into the table of the entity that holds its keys. */
export function heldBy(model: Model, relation: Relation, child: string): MadeColumn[] {
  const { holder, pairs } = holdingsOf(relation);
  return pairs === null && holder === child ? keyColumns(model, relation) : [];
}

/** The columns of a pivot's table. */
export function pivotColumns(model: Model, relation: AnyPivotRelation): MadeColumn[] {
  return [...keyColumns(model, relation), ...relation.fields.map((field) => ({ name: field.column.value, type: field.type }))];
}

function keyColumns(model: Model, relation: Relation): MadeColumn[] {
  return Array.from(storedColumnTypes(model, relation), ([name, type]) => ({ name, type }));
}

/** The columns of a kind's own fields, which stand in a column of JSON. @param all the kind and the bases above it, the highest first */
function columnsInJson(all: readonly Entity[]): string[] {
  return all.slice(1).flatMap((one) => one.fields.filter(({ owner }) => owner === one.name).map((field) => field.column.value));
}

/** What is stored with a row of a kind beside the values of its fields: what kind it is, and the column of JSON with its own. */
export function storedBeside(model: Model, name: string, row: MadeRow): ReadonlyMap<string, Wire> {
  const { kinds } = entityOf(model, name);
  if (kinds === null || kinds.storage.kind === 'separate tables') return new Map();
  const beside = new Map<string, Wire>([[kinds.storage.mark, kinds.mark]]);
  if (kinds.storage.kind !== 'json') return beside;
  const inJson = columnsInJson(lineage(model, name));
  const own = Object.fromEntries(inJson.map((column) => [column, row.get(column) ?? null]));
  return beside.set(kinds.storage.column, inJson.length === 0 ? null : (own as Wire));
}

/** The rows of an entity's kinds in the tables that hold them. */
export function placeRows(model: Model, made: ReadonlyMap<string, readonly MadeRow[]>): MadeTable[] {
  const tables = new Map<string, { entity: Entity; columns: Map<string, ValueType>; rows: MadeRow[] }>();
  const tableFor = (entity: Entity, columns: readonly MadeColumn[]) => {
    const known = tables.get(entity.name) ?? { entity, columns: new Map<string, ValueType>(), rows: [] };
    for (const { name, type } of columns) if (!known.columns.has(name)) known.columns.set(name, type);
    tables.set(entity.name, known);
    return known.rows;
  };
  for (const [name, rows] of made) {
    const entity = entityOf(model, name);
    const all = lineage(model, name);
    const columns = all.flatMap((one) => ownColumns(model, one));
    const { kinds } = entity;
    const storage = kinds?.storage ?? null;
    if (kinds === null || storage === null || storage.kind === 'separate tables') {
      addRows(tableFor(entity, columns), rows);
      continue;
    }
    const root = entityOf(model, kinds.root);
    const mark: [string, Wire] = [storage.mark, kinds.mark];
    const marked: MadeColumn = { name: storage.mark, type: TEXT };
    switch (storage.kind) {
      case 'single table':
        addRows(
          tableFor(root, [...columns, marked]),
          rows.map((row) => new Map([...row, mark])),
        );
        break;
      case 'json': {
        const inJson = columnsInJson(all);
        const plain = columns.filter((column) => !inJson.includes(column.name));
        const json: MadeColumn = { name: storage.column, type: { kind: 'json' } };
        tableFor(root, [...plain, marked, json]).push(
          ...rows.map(
            (row) =>
              new Map([...Array.from(row).filter(([column]) => !inJson.includes(column)), ...storedBeside(model, name, row)]),
          ),
        );
        break;
      }
      case 'joined tables':
        for (const one of all) {
          const own = ownColumns(model, one);
          const base = one.name === kinds.root;
          const key = base ? [marked] : one.key.fields.map((field) => ({ name: field.column.value, type: field.type }));
          const held = [...key, ...own];
          tableFor(one, held).push(
            ...rows.map((row) => {
              const cells = held.map(({ name: column }): [string, Wire] => [column, row.get(column) ?? null]);
              return new Map(base ? [...cells, mark] : cells);
            }),
          );
        }
    }
  }
  return Array.from(tables.values(), ({ entity, columns, rows }) => ({
    schema: entity.table.value.schema,
    table: entity.table.value.name,
    owner: entity.name,
    columns: Array.from(columns, ([name, type]) => ({ name, type })),
    rows,
  }));
}

/** Puts rows behind others; there may be more than a call takes arguments. */
function addRows(table: MadeRow[], rows: readonly MadeRow[]): void {
  for (const row of rows) table.push(row);
}
