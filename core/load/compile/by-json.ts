import { entityOf } from '../../model/index.js';
import type { LoadPlan } from '../../plan/index.js';
import {
  column,
  columnsOf,
  derived,
  equal,
  freeName,
  type OrderTerm,
  type Select,
  type SqlExpression,
  selectOf,
  tupleOf,
} from '../../sql/index.js';
import { Columns } from './columns.js';
import type { CompiledNest, CompiledStatement, Output } from './compiled.js';
import type { Compiling } from './compiling.js';
import { soughtFor } from './limited.js';
import { keyTypesOf, named, ownerKey } from './owner-keys.js';
import { type LoadsCompiler, type Owners, placeOf } from './owners.js';
import { rowsOfLoad, statementFor } from './rows-below.js';
import type { Sought } from './seek-step.js';

/** So many values stand in one list: of the engines one takes a hundred arguments (PostgreSQL, FUNC_MAX_ARGS). */
const MOST_VALUES = 90;

/** Rows as JSON in a column of their owners. */
export function nestedLoad(compiling: Compiling, load: LoadPlan, owners: Owners, below: LoadsCompiler): CompiledNest {
  const place = placeOf(compiling, load, owners);
  const { row } = owners.columns;
  const key = ownerKey(row, load.role);
  const { json, statement } = compiling.correlates
    ? within(compiling, load, owners, key, below)
    : beside(compiling, load, owners, key, below);
  const { outputs, kind, identity, ordered, joined, nested, loads, columns } = statement;
  return {
    ...place,
    as: owners.columns.addNested(json, load.role.name),
    inLists: storedIn(columns).length > MOST_VALUES,
    outputs,
    kind,
    identity,
    ordered,
    joined,
    nested,
    loads,
    columns,
  };
}

interface Nested {
  readonly json: SqlExpression;
  readonly statement: CompiledStatement;
}

/** A select in the column, which speaks of the owner. */
function within(compiling: Compiling, load: LoadPlan, owners: Owners, key: SqlExpression, below: LoadsCompiler): Nested {
  const { aliases } = owners.columns.row.builder;
  const { sought, columns } = columnsSought(compiling, load, owners, (stitch) => equal(stitch, key));
  const rows = rowsOfLoad(compiling, load, sought, columns, { isJoined: false, limits: 'at once' });
  const statement = statementFor(compiling, rows, load.loads, below);
  const alias = aliases.claim(`${load.role.name}_rows`);
  const list = { expression: listOf(compiling, statement, (as) => column(alias, as), []), as: null };
  return { json: { kind: 'scalar', select: selectOf(derived(statement.select, alias), { columns: [list] }) }, statement };
}

/** A select beside the owners that makes the list of each: where no select within may speak of the rows around it. */
function beside(compiling: Compiling, load: LoadPlan, owners: Owners, key: SqlExpression, below: LoadsCompiler): Nested {
  const { builder } = owners.columns.row;
  const { sought, columns } = columnsSought(compiling, load, owners, () => null);
  // Where a limit chooses the owners, the lists of all others would be made in vain.
  const chosen = owners.cutValuesOf(key);
  if (chosen !== null) sought.row.builder.conditions.push({ kind: 'in select', operand: sought.stitch, select: chosen });
  const stitch = columns.addKey(sought.stitch, keyTypesOf(compiling, load.role).parts);
  const rows = rowsOfLoad(compiling, load, sought, columns, { isJoined: false, limits: 'by place' });
  const statement = statementFor(compiling, { ...rows, chosen: chosen !== null }, load.loads, below);
  const listed = listedIn(statement.select, () => builder.aliases.claim(`${load.role.name}_rows`));
  const owner = named(tupleOf(stitch.map(listed.columnOf)), 'owner');
  const list = { expression: listOf(compiling, statement, listed.columnOf, listed.orderBy), as: 'list' };
  const grouped: Select = {
    ...listed.rows,
    columns: [...owner, list],
    groupBy: owner.map(({ expression }) => expression),
  };
  const lists = builder.aliases.claim(`${load.role.name}_lists`);
  const names = owner.map(({ as }) => as);
  builder.joinList(derived(grouped, lists), equal(columnsOf(lists, names), key));
  return { json: column(lists, 'list'), statement };
}

/** Rows as a select that makes lists of them reads them. */
interface Listed {
  /** A select of those rows, in no order, of which no column is stated. */
  readonly rows: Select;
  /** What stands under the name of a column of theirs. */
  readonly columnOf: (as: string) => SqlExpression;
  /** The order that they are in. */
  readonly orderBy: readonly OrderTerm[];
}

/**
 * Lists are made of the rows of a select: of the tables that it reads, where it gives their columns as they are; else around it,
 * its rows numbered, since their order is lost where they are grouped. MariaDB 10.11 ends, as a server, where two such selects
 * stand around each other and are not numbered: it takes each for the tables within.
 */
function listedIn(select: Select, claim: () => string): Listed {
  const own = new Map(select.columns.map(({ as, expression }) => [as, expression]));
  const ofColumns = [...own.values(), ...select.orderBy.map(({ expression }) => expression)].every(
    ({ kind }) => kind === 'column',
  );
  if (ofColumns && select.limit === null && select.groupBy.length === 0 && !select.distinct)
    return { rows: { ...select, orderBy: [] }, columnOf: (as) => own.get(as) ?? { kind: 'null' }, orderBy: select.orderBy };
  const alias = claim();
  const { inner, orderBy } = numbered(select, alias);
  return { rows: selectOf(derived(inner, alias)), columnOf: (as) => column(alias, as), orderBy };
}

function numbered(select: Select, alias: string): { readonly inner: Select; readonly orderBy: readonly OrderTerm[] } {
  if (select.orderBy.length === 0) return { inner: select, orderBy: [] };
  const number: SqlExpression = { kind: 'row number', partition: [], orderBy: select.orderBy };
  const as = freeName(select, 'number');
  return {
    inner: { ...select, columns: [...select.columns, { expression: number, as }], orderBy: [] },
    orderBy: [{ expression: column(alias, as), descending: false, nulls: false }],
  };
}

/** The rows of a load for some owners, and the columns that the answer has of them. */
function columnsSought(
  compiling: Compiling,
  load: LoadPlan,
  owners: Owners,
  keys: (stitch: SqlExpression) => SqlExpression | null,
): { readonly sought: Sought; readonly columns: Columns } {
  const sought = soughtFor(compiling, load, keys, owners.columns.row.builder.aliases);
  const columns = new Columns(compiling, sought.row, entityOf(compiling.model, load.role.target));
  if (load.output.kind === 'rows') columns.addFields(load.output.fields);
  return { sought, columns };
}

/** The columns that a statement has; keys of several parts are put together from them. */
function storedIn(columns: readonly Output[]): Output[] {
  return columns.filter(({ parts }) => parts === null);
}

/** The rows of a select as one list of JSON. */
function listOf(
  compiling: Compiling,
  { columns }: CompiledStatement,
  columnOf: Listed['columnOf'],
  orderBy: readonly OrderTerm[],
): SqlExpression {
  const values = storedIn(columns).map((output) => elementOf(compiling, output, columnOf(output.as)));
  const lists = Array.from({ length: Math.max(1, Math.ceil(values.length / MOST_VALUES)) }, (_, at) =>
    values.slice(at * MOST_VALUES, (at + 1) * MOST_VALUES),
  );
  return { kind: 'json rows', lists, orderBy };
}

function elementOf({ values, madeHere }: Compiling, { type, inJson, nested }: Output, value: SqlExpression): SqlExpression {
  if (nested === true) return values.elements.json(value);
  return inJson === true
    ? values.elements.value({ kind: 'text', length: null }, value, true)
    : values.elements.value(type, value, madeHere);
}
