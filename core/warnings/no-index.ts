import type { PlanStep } from '../load/index.js';
import {
  type Expression,
  entityOf,
  type Load,
  type Model,
  type Query,
  type Role,
  readsRow,
  tableEntity,
} from '../model/index.js';
import type { Span } from '../notation/index.js';
import type { Schema, Table } from '../schema/index.js';
import type { TableName } from '../sql/index.js';
import { heldTogether } from './conditions.js';
import { counted, type RanQuery, type Warning } from './warning.js';

/** A table of fewer rows is read as fast as an index of it. */
const FEW = 1000;

/** Rows that are looked for by columns with which no index begins. */
export interface Unindexed {
  /** The entity whose rows are looked for. */
  readonly entity: string;
  readonly columns: readonly string[];
  /** What a line `index (…)` of the entity would name; null where its rows are pairs. */
  readonly member: string | null;
  /** The path of the statement that looks for them. */
  readonly path: string;
  readonly looked: string;
  readonly span: Span;
}

/** What a query looks for by its conditions and its loads, and no index of the design's tables begins with. */
export function unindexedOf(model: Model, schema: Schema, query: Query): Unindexed[] {
  const looked = { model, schema };
  return [
    ...byCondition(looked, query.entity, query.where, ''),
    ...query.where.flatMap((condition) => behindRoles(looked, condition, '')),
    ...query.loads.flatMap((load) => byLoad(looked, load, '')),
  ];
}

interface Looked {
  readonly model: Model;
  readonly schema: Schema;
}

function byLoad(looked: Looked, load: Load, above: string): Unindexed[] {
  const path = above === '' ? load.role.name : `${above}.${load.role.name}`;
  const said = `The rows of load ${path} are`;
  return [
    ...overRole(looked, load.role, { path, looked: said, span: load.span }),
    ...load.loads.flatMap((inner) => byLoad(looked, inner, path)),
  ];
}

/** Rows of a role whose keys stand in them. */
function overRole({ model, schema }: Looked, role: Role, place: Pick<Unindexed, 'path' | 'looked' | 'span'>): Unindexed[] {
  const { way } = role;
  if (way.kind !== 'child') return [];
  const entity = tableEntity(model, role.target, way.holder);
  if (isLed(schema, entityOf(model, entity).table.value, way.columns)) return [];
  const back = entityOf(model, way.holder).roles.find(
    (one) => one.relation === role.relation && one.way.kind === 'key' && one.way.columns.join() === way.columns.join(),
  );
  return [{ entity, columns: way.columns, member: back?.name ?? null, ...place }];
}

/** The rows behind roles whose existence, number or values a condition asks for. */
function behindRoles(looked: Looked, condition: Expression, path: string): Unindexed[] {
  return heldTogether([condition]).flatMap((part) => {
    if (part.kind === 'not' || part.kind === 'negate') return behindRoles(looked, part.operand, path);
    if (part.kind !== 'quantified' && part.kind !== 'aggregated') return [];
    const [hop] = part.hops;
    return hop === undefined
      ? []
      : overRole(looked, hop.role, { path, looked: `The rows behind ${hop.role.name} are`, span: part.span });
  });
}

/** The first of the fields that conditions fix, where an index begins with none of them. */
function byCondition({ model, schema }: Looked, entity: string, where: readonly Expression[], path: string): Unindexed[] {
  const { key } = entityOf(model, entity);
  const fixed = heldTogether(where).flatMap((condition) => fixedBy(model, entity, condition));
  const isHelped = fixed.some(
    ({ place, columns }) => columns.every((column) => key.columns.includes(column)) || isLed(schema, place, columns),
  );
  const best = fixed.find(({ exact }) => exact) ?? fixed[0];
  if (isHelped || best === undefined) return [];
  const { member, columns, span } = best;
  return [{ entity, columns, member, path, looked: `The rows of ${entity} are`, span }];
}

interface Fixed {
  readonly member: string;
  readonly columns: readonly string[];
  readonly place: TableName;
  /** One value is meant, not a stretch of them. */
  readonly exact: boolean;
  readonly span: Span;
}

/** The field or role of the row itself that a condition fixes to a value, a list or a stretch of them. */
function fixedBy(model: Model, entity: string, condition: Expression): Fixed[] {
  const { span } = condition;
  switch (condition.kind) {
    case 'binary': {
      if (!['=', '<', '<=', '>', '>='].includes(condition.operator)) return [];
      const { left, right } = condition;
      const exact = condition.operator === '=';
      const side = !readsRow(right) ? left : !readsRow(left) ? right : null;
      return side === null ? [] : fixedField(model, entity, side, exact, span);
    }
    case 'in':
      if (condition.negated || condition.items.some(readsRow)) return [];
      return fixedField(model, entity, condition.operand, true, span);
    case 'between':
      if (condition.negated || readsRow(condition.low) || readsRow(condition.high)) return [];
      return fixedField(model, entity, condition.operand, false, span);
    case 'is null':
      return condition.negated ? [] : fixedField(model, entity, condition.operand, true, span);
    default:
      return [];
  }
}

function fixedField(model: Model, entity: string, side: Expression, exact: boolean, span: Span): Fixed[] {
  if (side.kind === 'field' && side.hops.length === 0) {
    const owner = entityOf(model, side.entity);
    const field = owner.fields.find((one) => one.name === side.field);
    if (field === undefined || !isIndexable(field.type.kind)) return [];
    const place = entityOf(model, tableEntity(model, entity, field.owner)).table.value;
    return [{ member: field.name, columns: [field.column.value], place, exact, span }];
  }
  const [role, ...others] = side.kind === 'role' ? side.hops : [];
  if (role === undefined || others.length > 0 || role.way.kind !== 'key') return [];
  const place = entityOf(model, tableEntity(model, entity, role.owner)).table.value;
  return [{ member: role.name, columns: role.way.columns, place, exact, span }];
}

function isIndexable(kind: string): boolean {
  return kind !== 'bytes' && kind !== 'json' && kind !== 'composite' && kind !== 'sql';
}

function isLed(schema: Schema, name: TableName, columns: readonly string[]): boolean {
  const table = schema.tables.find((one) => one.name.name === name.name && one.name.schema === name.schema);
  // Of a table that the design does not know, nothing is said.
  return (
    table === undefined || leadersOf(table).some((group) => columns.every((one) => group.slice(0, columns.length).includes(one)))
  );
}

function leadersOf({ primaryKey, uniques, indexes }: Table): (readonly string[])[] {
  return [primaryKey.columns, ...uniques.map((unique) => unique.columns), ...indexes.map((index) => index.columns)];
}

/** Rows are looked for in a large table by what no index of it begins with. */
export const noIndex: Warning = {
  code: 'no-index',
  find: (ran) =>
    unindexedOf(ran.model, ran.schema, ran.query).flatMap((unindexed) => {
      const { entity, columns, member, path, looked, span } = unindexed;
      const step = scanOf(ran, path);
      const rows = ran.rowsOf.get(entity) ?? 0;
      if (step === null || rows < FEW) return [];
      const owner = entityOf(ran.model, entity);
      const stopsEarly = path === '' && isCutWhileRead(ran);
      const read = stopsEarly
        ? `they are looked through until enough are found, ${counted(rows, 'row')} at most.`
        : `all ${counted(rows, 'row')} are read.`;
      const line = member === null ? null : `index (${member})`;
      const at = owner.head.end;
      return [
        {
          weight: stopsEarly ? ('note' as const) : ('warning' as const),
          code: noIndex.code,
          message: `${looked} sought by ${columns.join(', ')}, with which no index of ${owner.table.value.name} begins: ${read}${line === null ? '' : ` Add “${line}” to ${owner.name}.`}`,
          evidence: `The plan: ${step.text}.`,
          span,
          fix:
            line === null || owner.given
              ? null
              : {
                  of: 'design' as const,
                  title: `Add ${line} to ${owner.name}`,
                  edits: [{ span: { start: at, end: at }, text: `\n  ${line}` }],
                },
        },
      ];
    }),
};

/** Does a limit end the reading of the root rows? Where they are sorted, or put into groups, all are read before. */
function isCutWhileRead({ query, log }: RanQuery): boolean {
  const isCut = query.limit !== null || query.cardinality === 'first' || query.cardinality === 'exists';
  const steps = log.find(({ path }) => path === '')?.steps ?? [];
  return isCut && query.groupBy === null && steps.every(({ mark }) => mark === null || mark === 'full scan');
}

/** The first step of the statement of a path that reads a table whole, or whatever statement brings what stands there. */
function scanOf({ log }: RanQuery, path: string): PlanStep | null {
  const entries = [...log].sort((one, other) => other.path.length - one.path.length);
  const entry = entries.find((one) => one.path === path || one.path === '' || path.startsWith(`${one.path}.`));
  return entry?.steps.find(({ mark }) => mark === 'full scan') ?? null;
}
