import { entityOf } from '../../model/index.js';
import type { LoadWay } from '../../notation/index.js';
import type { LoadPlan } from '../../plan/index.js';
import type { Join, OrderTerm, Select, SqlExpression } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { Columns } from './columns.js';
import type { CompiledJoin, CompiledLoad, CompiledNest, LoadPlace, Output } from './compiled.js';
import type { Compiling } from './compiling.js';

/** The rows that others are loaded for: their columns, and how an expression over them is said in the statement around. */
export interface Owners {
  readonly columns: Columns;
  /** They stand in every line of their statement, rather than beside others that may have none. */
  readonly sure: boolean;
  /** The values that an expression over them has, one column for each part, where a limit cuts off them or what they stand below; else null. */
  cutValuesOf(expression: SqlExpression): Select | null;
  outside(expression: SqlExpression, types: readonly ValueType[]): SqlExpression;
}

/** Rows that are joined to their owners, with what the statement around them takes up for it. */
export interface JoinedRows {
  readonly rows: CompiledJoin;
  readonly joins: readonly Join[];
  readonly columns: Select['columns'];
  readonly outputs: readonly Output[];
  readonly orderBy: readonly OrderTerm[];
}

/** What is loaded below rows, each in its way. */
export interface LoadsBelow {
  readonly joined: readonly JoinedRows[];
  readonly nested: readonly CompiledNest[];
  readonly loads: readonly CompiledLoad[];
}

/** Compiles the loads below rows: each way hands what is deeper on to it. */
export type LoadsCompiler = (compiling: Compiling, plans: readonly LoadPlan[], owners: Owners) => LoadsBelow;

/** The way of a load: that which is wished for all, that of the text, or by batch. What is counted is counted for all owners at once. */
export function wayOf({ way }: Compiling, { output, by }: LoadPlan): LoadWay {
  return output.kind === 'count' ? 'batch' : (way ?? by ?? 'batch');
}

/** Where the rows of a load stand in the answer. */
export function placeOf(compiling: Compiling, { role, path, branch, span }: LoadPlan, owners: Owners): LoadPlace {
  const { name: entity } = entityOf(compiling.model, role.target);
  const { columns } = owners;
  return {
    role: role.name,
    path,
    entity,
    many: role.knows === 'many',
    branch,
    owners: columns.addOwnersOf(role),
    hiddenBy: columns.addHiddenBy(role),
    span,
  };
}
