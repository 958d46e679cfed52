import type { Entity, Parameter } from '../../model/index.js';
import { accessesOf, type PlannedExpression, type QueryPlan } from '../../plan/index.js';
import { derived, firstItemOf, itemsOf, number, type Select, type SqlExpression, selectOf } from '../../sql/index.js';
import type { Weave, Woven } from '../../walls/index.js';
import { planOf, weaveOf } from '../../walls/woven.js';
import { Columns } from './columns.js';
import { alone, type Binding, COUNT, type Compiled, type CompiledRead, type CompiledStatement, FOUND } from './compiled.js';
import { type Compiling, entityAt, rowAt, type SourceRow } from './compiling.js';
import { type CompileOptions, compilingOf } from './compiling-of.js';
import { compiled } from './expressions.js';
import { keyOutputs } from './key-outputs.js';
import { compileLoads } from './loads.js';
import { orderTerms } from './order.js';
import { statementFor } from './rows-below.js';
import { Aliases, SelectBuilder } from './select-builder.js';
import { shownRead, shownTold } from './shown.js';
import { filteredRow } from './steps.js';
import { compileStored } from './stored.js';

/** What was compiled of a woven plan; whoever lets go of the plan lets go of it. */
const made = new WeakMap<Woven, { readonly options: CompileOptions; readonly compiled: Compiled }[]>();

/**
 * A woven plan as statements: one select for the rows asked for, and one for each loaded relation. It is compiled once for a
 * database, and is the same value from then on, so that it is printed once too.
 */
export function compile(woven: Woven, options: CompileOptions): Compiled {
  const known = made.get(woven) ?? [];
  const before = known.find((one) => sameOptions(one.options, options));
  if (before !== undefined) return before.compiled;
  const fresh = compileAnew(planOf(woven), weaveOf(woven), options);
  made.set(woven, [...known, { options, compiled: fresh }]);
  return fresh;
}

function sameOptions(one: CompileOptions, other: CompileOptions): boolean {
  return (
    one.model === other.model &&
    one.dialect === other.dialect &&
    one.madeHere === other.madeHere &&
    one.kept === other.kept &&
    one.way === other.way
  );
}

function compileAnew(plan: QueryPlan, weave: Weave | null, options: CompileOptions): Compiled {
  const compiling = compilingOf(options, accessesOf(plan), weave);
  const { root, cardinality, output } = plan;
  if (root.over.kind === 'stored' || root.over.kind === 'repeated')
    return { ...alone(compileStored(compiling, plan)), entity: root.entity ?? '', cardinality, bindings: [] };
  const entity = entityAt(options.model, root);
  const aliases = new Aliases();
  const alias = aliases.claim(entity.table.value.name);
  const builder = new SelectBuilder(compiling.site, aliases);
  builder.readFrom(entity.name, alias);
  const row = rowAt(builder, root, alias);
  if (root.over.kind === 'keys') builder.conditions.push(amongKeys(compiling, row, entity));
  filteredRow(compiling, row);
  const columns = new Columns(compiling, row, entity);
  if (output.kind === 'rows') columns.addFields(output.fields);
  const statement = output.kind === 'rows' ? rowsOf(compiling, row, plan, columns) : alone(readOf(compiling, row, plan, columns));
  return { ...statement, entity: entity.name, cardinality, bindings: bindingsOf(compiling, plan.parameters) };
}

/** The statement for the rows of a plan's root, with what is loaded below them. */
function rowsOf(compiling: Compiling, row: SourceRow, plan: QueryPlan, columns: Columns): CompiledStatement {
  const { limit, offset } = windowOf(compiling, row, plan);
  const cutOff = limit === null && offset === null ? null : ({ kind: 'window', limit, offset } as const);
  // Rows sought by their keys are put in the order of the keys when they have arrived.
  const orderBy = plan.root.over.kind === 'keys' ? [] : orderTerms(compiling, row, plan.order);
  return statementFor(
    compiling,
    { row, columns, orderBy, cutOff, sure: true, chosen: false, identity: () => [] },
    plan.loads,
    compileLoads,
  );
}

function windowOf(compiling: Compiling, row: SourceRow, { limit, offset }: QueryPlan): Pick<Select, 'limit' | 'offset'> {
  const amount = (expression: PlannedExpression | null) => (expression === null ? null : compiled(compiling, row, expression));
  return { limit: amount(limit), offset: amount(offset) };
}

/** The condition that a row's key is one of those that are bound as `keys`. */
function amongKeys({ values }: Compiling, { builder, alias }: SourceRow, { key }: Entity): SqlExpression {
  const types = key.fields.map(({ type }) => values.listType(type));
  return { kind: 'in keys', operand: builder.key(alias), parameter: 'keys', types };
}

/** The statement for the rows of a plan's root. */
function readOf(compiling: Compiling, row: SourceRow, plan: QueryPlan, columns: Columns): CompiledRead {
  const { builder } = row;
  const { output } = plan;
  const window = () => windowOf(compiling, row, plan);
  switch (output.kind) {
    case 'count':
      return output.of === null ? counted(row, window()) : shownTold(compiling, row, output.of, 'count', window());
    case 'exists':
      return output.of === null ? found(row, window()) : shownTold(compiling, row, output.of, 'exists', window());
    case 'keys': {
      const { names, outputs } = keyOutputs(columns.entity, 'key');
      const key = itemsOf(builder.key(row.alias)).map((expression, index) => ({ expression, as: names[index] ?? '' }));
      const orderBy = orderTerms(compiling, row, plan.order);
      return { select: builder.build({ columns: key, orderBy, ...window() }), outputs, kind: null };
    }
    case 'shown':
    case 'groups':
      return shownRead(compiling, row, plan, output, window());
    case 'rows':
    case 'stored':
    case 'cells':
    case 'multiplicities':
      throw new Error(`${output.kind} is asked in another way`);
  }
}

const COUNT_ROWS: SqlExpression = { kind: 'count rows' };

/** How many rows there are; where a limit stands, of those that it lets through. */
function counted({ builder, alias }: SourceRow, window: Pick<Select, 'limit' | 'offset'>): CompiledRead {
  const limited = window.limit !== null || window.offset !== null;
  const plain = builder.build({
    columns: limited
      ? [{ expression: firstItemOf(builder.key(alias)), as: 'counted' }]
      : [{ expression: COUNT_ROWS, as: COUNT.as }],
    orderBy: [],
    ...window,
  });
  const select: Select = limited
    ? selectOf(derived(plain, 'counted'), { columns: [{ expression: COUNT_ROWS, as: COUNT.as }] })
    : plain;
  return { select, outputs: [COUNT], kind: null };
}

/** Whether there is any row: one line, or none. A limit of none lets none through. */
function found({ builder }: SourceRow, { limit, offset }: Pick<Select, 'limit' | 'offset'>): CompiledRead {
  const columns = [{ expression: number(1), as: FOUND.as }];
  const one = limit === null ? number(1) : limit;
  return { select: builder.build({ columns, orderBy: [], limit: one, offset }), outputs: [FOUND], kind: null };
}

function bindingsOf({ bindings }: Compiling, parameters: readonly Parameter[]): Binding[] {
  return Array.from(bindings.values(), (binding) => {
    if (binding.from.kind !== 'parameter') return binding;
    const { from } = binding;
    const optional = parameters.find((parameter) => parameter.name === from.parameter)?.optional ?? false;
    return { ...binding, from: { ...from, optional } };
  });
}
