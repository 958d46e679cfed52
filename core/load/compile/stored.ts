import { entityOf } from '../../model/index.js';
import type { Access, PlanOutput, QueryPlan } from '../../plan/index.js';
import {
  column,
  columnsOf,
  derived,
  equal,
  number,
  type OrderTerm,
  type Select,
  type SqlExpression,
  selectOf,
} from '../../sql/index.js';
import { COUNT, type CompiledRead, type Output } from './compiled.js';
import { type Compiling, rowAt, type SourceRow } from './compiling.js';
import { compiled } from './expressions.js';
import { keyOutputs } from './key-outputs.js';
import { Aliases, SelectBuilder } from './select-builder.js';
import { equalAsText, storedRow } from './stored-parts.js';
import { storedName } from './stored-reading.js';

type Selected = Select['columns'][number];

/** How often something stands, of what stands more than once. */
const TIMES = 'times';

/** The statement of a plan over stored rows. */
export function compileStored(compiling: Compiling, plan: QueryPlan): CompiledRead {
  const row = rowOf(compiling, plan.root);
  const { output } = plan;
  switch (output.kind) {
    case 'count':
      return { select: built(compiling, row, plan, [countOf(COUNT.as)]), outputs: [COUNT], kind: null };
    case 'stored':
      return storedColumns(compiling, row, plan, output);
    case 'cells':
      return cells(compiling, row, plan, output.columns);
    case 'multiplicities':
      return multiplicities(compiling, row, output);
    case 'rows':
    case 'shown':
    case 'groups':
    case 'exists':
    case 'keys':
      throw new Error(`stored rows are not asked for ${output.kind}`);
  }
}

/** Stored rows with the conditions on them, in a select of their own. */
function rowOf(compiling: Compiling, access: Access): SourceRow {
  const builder = new SelectBuilder(compiling.site, new Aliases());
  const { over } = access;
  const row = over.kind === 'repeated' ? repeatedRow(compiling, builder, access, over) : plainRow(compiling, builder, access);
  for (const condition of access.conditions) builder.conditions.push(compiled(compiling, row, condition));
  return row;
}

function plainRow(compiling: Compiling, builder: SelectBuilder, access: Access): SourceRow {
  if (access.over.kind !== 'stored') throw new Error(`access ${access.id} is over no stored rows`);
  return storedRow(compiling, builder, access, storedName(compiling.model, access.over.rows));
}

/** What stands in some columns of more than one row, once. */
function repeatedRow(
  compiling: Compiling,
  builder: SelectBuilder,
  access: Access,
  { rows, columns }: Extract<Access['over'], { kind: 'repeated' }>,
): SourceRow {
  const row = rowOf(compiling, rows);
  const own = columns.map((name) => row.builder.column(row.alias, '', name));
  const select = row.builder.build({
    columns: [...own.map((expression, index) => ({ expression, as: columns[index] ?? '' })), countOf(TIMES)],
    orderBy: [],
    limit: null,
    offset: null,
  });
  const alias = 'together';
  builder.startFrom(derived({ ...select, groupBy: own }, alias));
  builder.conditions.push({ kind: 'binary', operator: '>', left: column(alias, TIMES), right: number(1) });
  return rowAt(builder, access, alias);
}

function storedColumns(
  compiling: Compiling,
  { builder, alias, ...row }: SourceRow,
  plan: QueryPlan,
  { columns, key }: Extract<PlanOutput, { kind: 'stored' }>,
): CompiledRead {
  const told = columns.map(({ as, column: name }): Selected => ({ expression: builder.column(alias, '', name), as }));
  const outputs = columns.map(
    ({ as, column: name, type }): Output => ({ as, type, name, pivot: null, parts: null, kinds: null }),
  );
  const here = { builder, alias, ...row };
  if (key === null) return { select: built(compiling, here, plan, told), outputs, kind: null };
  const entity = entityOf(compiling.model, key);
  const named = keyOutputs(entity, 'key');
  const own = entity.key.columns.map(
    (name, index): Selected => ({ expression: builder.column(alias, '', name), as: named.names[index] ?? name }),
  );
  return { select: built(compiling, here, plan, [...told, ...own]), outputs: [...outputs, ...named.outputs], kind: null };
}

/** How many rows there are, and how many cells are empty. */
function cells(compiling: Compiling, row: SourceRow, plan: QueryPlan, columns: readonly string[]): CompiledRead {
  const none = columns
    .map((name): SqlExpression => {
      const isNull: SqlExpression = { kind: 'is null', operand: row.builder.column(row.alias, '', name), negated: false };
      const empty: SqlExpression = { kind: 'case', branches: [{ when: isNull, then: number(1) }], otherwise: null };
      return { kind: 'function', name: 'count', args: [empty] };
    })
    .reduce<SqlExpression | null>(
      (left, right) => (left === null ? right : { kind: 'binary', operator: '+', left, right }),
      null,
    );
  const empty: Output = { ...COUNT, as: 'empty', name: 'empty' };
  const selected = [countOf(COUNT.as), { expression: none ?? number(0), as: empty.as }];
  return { select: built(compiling, row, plan, selected), outputs: [COUNT, empty], kind: null };
}

/**
 * For each number of rows that hold a row's key, how many rows there are of which that is true. Those that hold the key are grouped
 * by it first and only then joined, which is the quicker order on any size.
 */
function multiplicities(
  compiling: Compiling,
  row: SourceRow,
  { holding, heldAsText }: Extract<PlanOutput, { kind: 'multiplicities' }>,
): CompiledRead {
  const { key } = entityOf(compiling.model, row.builder.reading(row.alias).entity);
  const names = key.columns.map((_, index) => (index === 0 ? 'owner' : `owner_${index + 1}`));
  const grouped = groupedBy(compiling, holding, names);
  const own = row.builder.columns(row.alias, '', key.columns);
  const held = columnsOf('grouped', names);
  const on = heldAsText === null ? equal(own, held) : equalAsText(compiling.values, heldAsText, own, held);
  const children = column('grouped', 'children');
  const within = row.builder.build({ columns: [], orderBy: [], limit: null, offset: null });
  const outputs = ['children', 'parents'].map((as): Output => ({ ...COUNT, as, name: as }));
  const select = selectOf(derived(grouped, 'grouped'), {
    columns: [{ expression: children, as: 'children' }, countOf('parents')],
    joins: [{ kind: 'inner', source: within.from, on }],
    where: within.where,
    groupBy: [children],
    orderBy: [{ expression: children, descending: false, nulls: false }],
  });
  return { select, outputs, kind: null };
}

/** How many rows hold each key; a pair that holds two counts for both. */
function groupedBy(
  compiling: Compiling,
  holding: Extract<PlanOutput, { kind: 'multiplicities' }>['holding'],
  names: readonly string[],
): Select {
  const readings = holding.map(({ rows, columns }) => {
    const row = rowOf(compiling, rows);
    const keys = columns.map((name) => row.builder.column(row.alias, '', name));
    const selected = keys.map((expression, index) => ({ expression, as: names[index] ?? '' }));
    return { row, keys, selected };
  });
  const nothing = { orderBy: [], limit: null, offset: null };
  const [only, ...more] = readings;
  if (only === undefined) throw new Error('no rows hold the key');
  if (more.length === 0) {
    const select = only.row.builder.build({ columns: [...only.selected, countOf('children')], ...nothing });
    return { ...select, groupBy: only.keys };
  }
  const selects = readings.map(({ row, selected }) => row.builder.build({ columns: selected, ...nothing }));
  const owners = names.map((name) => column('pairs', name));
  return selectOf(derived({ kind: 'union all', selects }, 'pairs'), {
    columns: [...owners.map((expression, index) => ({ expression, as: names[index] ?? '' })), countOf('children')],
    groupBy: owners,
  });
}

function built(compiling: Compiling, row: SourceRow, { order, limit }: QueryPlan, columns: readonly Selected[]): Select {
  const orderBy = order.map(({ expression, descending }): OrderTerm => {
    return { expression: compiled(compiling, row, expression), descending, nulls: true };
  });
  const most = limit === null ? null : compiled(compiling, row, limit);
  return row.builder.build({ columns, orderBy, limit: most, offset: null });
}

function countOf(as: string): Selected {
  return { expression: { kind: 'count rows' }, as };
}
