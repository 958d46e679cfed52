import { operandsIn } from '../../model/index.js';
import type { PlannedExpression, PlannedOrder, PlannedPart, QueryPlan, ShownOutput } from '../../plan/index.js';
import {
  call,
  column,
  derived,
  firstItemOf,
  isSameColumn,
  itemsOf,
  number,
  type OrderTerm,
  type Select,
  type SqlExpression,
  selectOf,
  tupleOf,
} from '../../sql/index.js';
import { Columns } from './columns.js';
import { COUNT, type CompiledRead, FOUND } from './compiled.js';
import { type Compiling, entityAt, type GroupSource, type SourceRow } from './compiling.js';
import { compiled } from './expressions.js';
import { orderTerms, statedTerms } from './order.js';
import { askedOnce } from './shared.js';

type Window = Pick<Select, 'limit' | 'offset'>;
type OfGroup = Extract<PlannedPart, { kind: 'of group' }>;

/** The statement for a flat answer: expressions over rows, or over groups of them. */
export function shownRead(
  compiling: Compiling,
  row: SourceRow,
  plan: QueryPlan,
  output: ShownOutput,
  window: Window,
): CompiledRead {
  const { select, columns, orderBy } = linesOf(compiling, row, output, plan.order);
  if (!output.distinct) {
    const whole = { ...select, orderBy, ...window };
    const once = askedOnce(whole);
    const named = once === whole ? { ...whole, orderBy: orderBy.map((term) => byName(select, term)) } : once;
    return { select: named, outputs: columns.outputs, kind: null };
  }
  return { select: { ...orderedLines(compiling, select, columns, orderBy), ...window }, outputs: columns.outputs, kind: null };
}

/** What is shown is put in order by its name: it is not computed for the order again (SQL:1999, 14.1, sort specification list). */
function byName({ columns }: Select, term: OrderTerm): OrderTerm {
  if (term.expression.kind === 'column') return term;
  const written = JSON.stringify(term.expression);
  const shown = columns.find(({ expression }) => JSON.stringify(expression) === written);
  return shown?.as == null ? term : { ...term, expression: column(null, shown.as) };
}

/** The statement that counts the lines of a flat answer, or tells whether there is any. */
export function shownTold(
  compiling: Compiling,
  row: SourceRow,
  output: ShownOutput,
  tells: 'count' | 'exists',
  window: Window,
): CompiledRead {
  const { select } = linesOf(compiling, row, output, []);
  const lines = derived({ ...select, ...window }, 'counted');
  if (tells === 'count')
    return {
      select: selectOf(lines, { columns: [{ expression: { kind: 'count rows' }, as: COUNT.as }] }),
      outputs: [COUNT],
      kind: null,
    };
  const columns = [{ expression: number(1), as: FOUND.as }];
  return { select: selectOf(lines, { columns, limit: number(1) }), outputs: [FOUND], kind: null };
}

interface Lines {
  /** The lines, each once where they are distinct, in no order. */
  readonly select: Select;
  readonly columns: Columns;
  readonly orderBy: readonly OrderTerm[];
}

function linesOf(compiling: Compiling, row: SourceRow, output: ShownOutput, order: readonly PlannedOrder[]): Lines {
  if (output.kind === 'groups') return groupedLines(compiling, row, output, order);
  const columns = new Columns(compiling, row, entityAt(compiling.model, row.access));
  for (const { name, expression } of output.columns) columns.addShown(name, expression);
  const orderBy = output.distinct ? statedTerms(compiling, row, order) : orderTerms(compiling, row, order);
  const select = row.builder.build({ columns: columns.selected, orderBy: [], limit: null, offset: null });
  return { select: { ...select, distinct: output.distinct }, columns, orderBy };
}

/**
 * Lines for groups. Where each term is a column, rows are grouped by it as they are read; else by what a select within made of
 * it, since not every engine knows two expressions for the same.
 */
function groupedLines(
  compiling: Compiling,
  row: SourceRow,
  output: Extract<ShownOutput, { kind: 'groups' }>,
  order: readonly PlannedOrder[],
): Lines {
  const { values } = compiling;
  const terms = output.by.map((term) => compiled(compiling, row, term));
  const direct = terms.every((term) => itemsOf(term).every(({ kind }) => kind === 'column'));
  const within = direct ? null : new RowsWithin(compiling, row, terms, partsOfGroup(output, order));
  const valueIn = (part: OfGroup, value: PlannedExpression) => within?.valueOf(part) ?? compiled(compiling, row, value);
  const named = within?.terms ?? terms;
  const group: GroupSource = {
    term: (index) => named[index] ?? { kind: 'null' },
    aggregate: (part) => {
      if (part.value === null) return { kind: 'count rows' };
      const sql = valueIn(part, part.value);
      if (part.aggregate === 'count') return call('count', firstItemOf(sql));
      const { type } = part.value;
      if (type.kind === 'row' || type.kind === 'interval' || type.kind === 'null') throw new Error(`${type.kind} is no value`);
      return values.aggregate(part.aggregate, { sql, type });
    },
  };
  const ofGroup = { ...row, group };
  const columns = new Columns(compiling, ofGroup, entityAt(compiling.model, row.access));
  for (const { name, expression } of output.columns) columns.addShown(name, expression);
  const having = output.having === null ? null : compiled(compiling, ofGroup, output.having);
  const stated = statedTerms(compiling, ofGroup, order);
  const rest = output.by.map((term, index): PlannedOrder => {
    const { type, span } = term;
    return { expression: { kind: 'group term', term: index, access: row.access.id, type, span }, descending: false };
  });
  const orderBy = output.distinct ? stated : withoutRepeats([...stated, ...statedTerms(compiling, ofGroup, rest)]);
  const plain = within?.select() ?? row.builder.build({ columns: [], orderBy: [], limit: null, offset: null });
  const groupBy = named.flatMap(itemsOf);
  return { select: { ...plain, columns: columns.selected, groupBy, having, distinct: output.distinct }, columns, orderBy };
}

/** A column that has ordered lines already orders none again. */
function withoutRepeats(terms: readonly OrderTerm[]): OrderTerm[] {
  return terms.filter(
    ({ expression }, index) =>
      terms.findIndex((other) => isSameColumn(other.expression, expression)) >= index || expression.kind !== 'column',
  );
}

/** The aggregates that are spoken of in what is asked of groups. */
function partsOfGroup(output: Extract<ShownOutput, { kind: 'groups' }>, order: readonly PlannedOrder[]): OfGroup[] {
  const asked = [
    ...output.columns.map(({ expression }) => expression),
    ...(output.having === null ? [] : [output.having]),
    ...order.map(({ expression }) => expression),
  ];
  const found = new Set<OfGroup>();
  const visit = (expression: PlannedExpression): void => {
    if (expression.kind === 'of group') found.add(expression);
    else for (const inner of operandsIn<PlannedPart>(expression, () => [])) visit(inner);
  };
  for (const expression of asked) visit(expression);
  return Array.from(found);
}

/** A select within, whose rows have the terms of groups, and the values that are aggregated, as columns. */
class RowsWithin {
  readonly terms: readonly SqlExpression[];
  private readonly columns: { readonly expression: SqlExpression; readonly as: string }[] = [];
  private readonly values = new Map<OfGroup, SqlExpression>();

  constructor(
    compiling: Compiling,
    private readonly row: SourceRow,
    terms: readonly SqlExpression[],
    parts: readonly OfGroup[],
  ) {
    this.terms = terms.map((term) => tupleOf(itemsOf(term).map((item) => this.add(item, 'term'))));
    for (const part of parts)
      if (part.value !== null) this.values.set(part, this.add(firstItemOf(compiled(compiling, row, part.value)), 'value'));
  }

  valueOf(part: OfGroup): SqlExpression | null {
    return this.values.get(part) ?? null;
  }

  select(): Select {
    const { columns } = this;
    return selectOf(derived(this.row.builder.build({ columns, orderBy: [], limit: null, offset: null }), ALIAS));
  }

  private add(expression: SqlExpression, wish: string): SqlExpression {
    const as = `${wish}_${this.columns.length + 1}`;
    this.columns.push({ expression, as });
    return column(ALIAS, as);
  }
}

const ALIAS = 'grouped';

/**
 * Lines that stand there once, in order: first as is said, then by each column. Where a value is ordered by something that is
 * made of it, the lines are put in order around the select that gives each once.
 */
function orderedLines(compiling: Compiling, select: Select, columns: Columns, stated: readonly OrderTerm[]): Select {
  const { values } = compiling;
  const typeOf = (as: string) => columns.outputs.find((output) => output.as === as)?.type;
  const made = select.columns.some(({ expression, as }) => {
    const type = typeOf(as ?? '');
    return type !== undefined && values.ordered(type, expression) !== expression;
  });
  const of = ({ expression, as }: Select['columns'][number]) => (made ? column('shown', as ?? '') : expression);
  const first = stated.flatMap((term) => {
    const shown = select.columns.find(({ expression, as }) => {
      const type = typeOf(as ?? '');
      const ordered = type === undefined ? expression : values.ordered(type, expression);
      return JSON.stringify(ordered) === JSON.stringify(term.expression);
    });
    return shown === undefined ? [] : [{ ...term, shown }];
  });
  const others = select.columns
    .filter((one) => !first.some(({ shown }) => shown === one))
    .map((shown) => ({ shown, descending: false, nulls: true }));
  const orderBy = [...first, ...others].map(({ shown, descending, nulls }): OrderTerm => {
    const type = typeOf(shown.as ?? '');
    return { expression: type === undefined ? of(shown) : values.ordered(type, of(shown)), descending, nulls };
  });
  if (!made) return { ...select, orderBy };
  const lines = select.columns.map(({ as }) => ({ expression: column('shown', as ?? ''), as }));
  return selectOf(derived(select, 'shown'), { columns: lines, orderBy });
}
