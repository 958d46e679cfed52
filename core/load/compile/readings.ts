import { type ConcreteKind, type Entity, entityOf, type KindsStorage, lineage, type Model } from '../../model/index.js';
import {
  allOf,
  anyOf,
  column,
  columnsOf,
  derived,
  equal,
  number,
  type Select,
  type Source,
  type SqlExpression,
  selectOf,
  string,
  tableSource,
} from '../../sql/index.js';
import type { EngineValues, ValueType } from '../../values/index.js';

/** How the rows of an entity are read in one select: what stands in `from`, and where each column is found. */
export interface Reading {
  readonly entity: string;
  readonly alias: string;
  /** Asked for last, when all columns that are wanted have been asked for. */
  source(): Source;
  /** A column that an entity declares: this one, a base of it, or a kind of it, which may have no value here. */
  column(owner: string, name: string): SqlExpression;
  /** The stored field of an entity, by the column that the text gives it. */
  field(owner: string, field: Entity['fields'][number]): SqlExpression;
  /** A field as the text of JSON, where it stands in some; null where it has a column. */
  delivered(owner: string, field: Entity['fields'][number]): SqlExpression | null;
  /** What tells the kind of a row; null where all rows are of one. */
  readonly mark: (() => SqlExpression) | null;
  /** The marks of a kind, as `mark` has them. */
  marksOf(kinds: readonly ConcreteKind[]): readonly string[];
  /** What keeps out rows of other kinds that stand in the same table. */
  readonly condition: (() => SqlExpression) | null;
}

/** The select that a reading adds its tables and joins to. */
export interface ReadingSite {
  readonly model: Model;
  readonly values: EngineValues;
  /** The database was made here, so that each column of JSON holds JSON. */
  readonly madeHere: boolean;
  /** Joins the table of another entity of the same kinds, by the key, and gives its alias. */
  beside(alias: string, entity: string, kind: 'inner' | 'left'): string;
  /** A name that no other source of the statement has. */
  claim(wish: string): string;
}

interface ReadingRequest {
  readonly site: ReadingSite;
  readonly entity: Entity;
  readonly alias: string;
  /** The entity whose table is joined first: the one that has the columns by which rows are sought. */
  readonly anchor: string;
}

/** One way for each way to store kinds. */
const readings: Readonly<Record<KindsStorage['kind'], (request: ReadingRequest) => Reading>> = {
  'single table': readSingle,
  'joined tables': readJoined,
  'separate tables': readSeparate,
  json: readJson,
};

/** How an entity is read under an alias. */
export function readingOf(site: ReadingSite, name: string, alias: string, anchor: string): Reading {
  const entity = entityOf(site.model, name);
  const request = { site, entity, alias, anchor };
  return entity.kinds === null ? readPlain(request) : readings[entity.kinds.storage.kind](request);
}

function tableOf(entity: Entity, alias: string): Source {
  return tableSource(entity.table.value, alias);
}

const ownMarks = (kinds: readonly ConcreteKind[]) => kinds.map(({ mark }) => mark);

function readPlain({ entity, alias }: ReadingRequest): Reading {
  return {
    entity: entity.name,
    alias,
    source: () => tableOf(entity, alias),
    column: (_, name) => column(alias, name),
    field: (_, field) => column(alias, field.column.value),
    delivered: () => null,
    mark: null,
    marksOf: ownMarks,
    condition: null,
  };
}

/** All kinds stand in one table. */
function readSingle(request: ReadingRequest): Reading {
  const { entity, alias } = request;
  const { kinds } = entity;
  const storage = kinds?.storage;
  if (kinds === null || storage === undefined || storage.kind === 'separate tables') return readPlain(request);
  const mark = () => column(alias, storage.mark);
  return {
    ...readPlain(request),
    mark,
    // A row whose mark says nothing that is known is read as one of the base.
    condition: kinds.base === null ? null : () => among(mark(), ownMarks(kinds.concrete)),
  };
}

/** As in a single table; but what a kind has of its own stands in one json column. */
function readJson(request: ReadingRequest): Reading {
  const { entity, alias, site } = request;
  const storage = entity.kinds?.storage;
  const single = readSingle(request);
  if (storage?.kind !== 'json') return single;
  const stored = column(alias, storage.column);
  const { values, madeHere } = site;
  const isJson = madeHere ? null : values.isJson(stored);
  // One text that is no JSON would fail the whole statement: it is read as none, and delivered as it stands.
  const guarded = (read: SqlExpression, otherwise: SqlExpression): SqlExpression =>
    isJson === null ? read : { kind: 'case', branches: [{ when: isJson, then: read }], otherwise };
  return {
    ...single,
    field: (owner, field) =>
      owner === entity.kinds?.root
        ? column(alias, field.column.value)
        : guarded(values.fromJson(field.type, stored, field.column.value, madeHere), { kind: 'null' }),
    delivered: (owner, field) =>
      owner === entity.kinds?.root ? null : guarded(values.jsonText(stored, field.column.value), stored),
  };
}

/** What all have stands in the base's table, what a kind has of its own in one beside it: only those asked for are joined. */
function readJoined(request: ReadingRequest): Reading {
  const { site, entity, alias, anchor } = request;
  const { kinds } = entity;
  if (kinds?.storage.kind !== 'joined tables') return readPlain(request);
  const { storage, root } = kinds;
  const above = lineage(site.model, entity.name).map(({ name }) => name);
  const place = (owner: string) =>
    owner === anchor ? alias : site.beside(alias, owner, above.includes(owner) ? 'inner' : 'left');
  const mark = () => column(place(root), storage.mark);
  const at = entityOf(site.model, anchor);
  const own = ownMarks(kinds.concrete);
  const condition = () =>
    anchor === root ? among(mark(), own) : markedBeside(site, entityOf(site.model, root), alias, storage.mark, own);
  return {
    entity: entity.name,
    alias,
    source: () => tableOf(at, alias),
    column: (owner, name) => column(place(owner), name),
    field: (owner, field) => column(place(owner), field.column.value),
    delivered: () => null,
    mark,
    marksOf: ownMarks,
    condition: anchor === entity.name ? null : condition,
  };
}

/** The condition that a row is marked so in its base's table, where a join with it could only come later. */
function markedBeside(site: ReadingSite, root: Entity, alias: string, mark: string, values: readonly string[]): SqlExpression {
  const name = site.claim(root.table.value.name);
  return {
    kind: 'exists',
    select: selectOf(tableOf(root, name), {
      columns: [{ expression: number(1), as: null }],
      where: allOf([sameKey(root, name, alias), among(column(name, mark), values)]),
    }),
    negated: false,
  };
}

/** The name of the column that says, in a union of tables, which of them a row comes from. */
const FROM = '~kind';

/** Each concrete kind has a table of its own: read as one union of them, with the columns that are asked for. */
function readSeparate(request: ReadingRequest): Reading {
  const { site, entity, alias } = request;
  const kinds = entity.kinds?.concrete ?? [];
  const [only] = kinds;
  const wanted = new Map<string, { owner: string; name: string; as: string; type: ValueType | null }>();
  let told = false;
  const want = (owner: string, name: string, type: ValueType | null): SqlExpression => {
    const key = `${owner}\n${name}`;
    const known = wanted.get(key);
    if (known !== undefined) return column(alias, known.as);
    const taken = Array.from(wanted.values()).some(({ as }) => as === name);
    const as = taken ? `${name}_${wanted.size}` : name;
    wanted.set(key, { owner, name, as, type });
    return column(alias, as);
  };
  if (kinds.length === 1 && only !== undefined) {
    const concrete = entityOf(site.model, only.entity);
    return {
      ...readPlain(request),
      source: () => tableOf(concrete, alias),
      mark: () => string(only.entity),
      marksOf: (some) => some.map((kind) => kind.entity),
    };
  }
  const part = (kind: ConcreteKind): Select => {
    const concrete = entityOf(site.model, kind.entity);
    const above = lineage(site.model, kind.entity).map(({ name }) => name);
    const columns = Array.from(wanted.values(), ({ owner, name, as, type }) => ({
      expression: above.includes(owner) ? column(concrete.table.value.name, name) : site.values.absent(type),
      as,
    }));
    const from = told ? [{ expression: string(kind.entity), as: FROM }] : [];
    const all = [...columns, ...from];
    return selectOf(tableOf(concrete, concrete.table.value.name), {
      columns: all.length === 0 ? [{ expression: number(1), as: 'one' }] : all,
    });
  };
  return {
    entity: entity.name,
    alias,
    source: () => derived({ kind: 'union all', selects: kinds.map(part) }, alias),
    column: (owner, name) => want(owner, name, columnType(site.model, owner, name)),
    field: (owner, field) => want(owner, field.column.value, field.type),
    delivered: () => null,
    mark: () => {
      told = true;
      return column(alias, FROM);
    },
    marksOf: (some) => some.map((kind) => kind.entity),
    condition: null,
  };
}

/** The type of a column that is no field: (a part of) another row's key, or the mark beside one. */
function columnType(model: Model, owner: string, name: string): ValueType | null {
  const entity = entityOf(model, owner);
  const field = [...entity.fields, ...entity.key.fields].find((candidate) => candidate.column.value === name);
  if (field !== undefined) return field.type;
  for (const { way, target } of [...entity.roles, ...entity.polymorphic.flatMap(({ branches }) => branches)]) {
    if (way.kind !== 'key') continue;
    if (way.mark?.column === name) return { kind: 'text', length: null };
    const part = way.columns.indexOf(name);
    if (part >= 0) return way.mark?.held ?? entityOf(model, target).key.fields[part]?.type ?? null;
  }
  return null;
}

/** `mark = 'a'`, or `mark in ('a', 'b')`. */
export function among(mark: SqlExpression, values: readonly string[]): SqlExpression {
  const [first, ...more] = values;
  if (first === undefined) return { kind: 'binary', operator: '=', left: number(1), right: number(0) };
  if (more.length === 0) return { kind: 'binary', operator: '=', left: mark, right: string(first) };
  return { kind: 'in', operand: mark, items: values.map(string), negated: false };
}

/** Two rows of one entity's kinds are the same by their key. */
export function sameKey(entity: Entity, one: string, other: string): SqlExpression {
  return equal(columnsOf(one, entity.key.columns), columnsOf(other, entity.key.columns));
}

/** Is any of these columns filled? */
export function anyFilled(columns: readonly SqlExpression[]): SqlExpression {
  return anyOf(columns.map((operand) => ({ kind: 'is null', operand, negated: true }))) ?? { kind: 'null' };
}
