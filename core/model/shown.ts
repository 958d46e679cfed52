import type { Name, QueryLine } from '../notation/index.js';
import { resolveOrder } from './constraints.js';
import type { Context } from './context.js';
import { wrong } from './draft.js';
import type { Expression } from './expression.js';
import { resolveCondition, resolveExpression } from './expressions.js';
import { isSame, speaksOfGroup } from './groups.js';
import type { Load, Query, ShownColumn } from './model.js';
import { refer } from './references.js';

type Shown = Pick<Query, 'show' | 'distinct' | 'groupBy' | 'having' | 'orderBy'>;
type ShowLine = Extract<QueryLine, { kind: 'show' }>;
type HavingLine = Extract<QueryLine, { readonly condition: unknown }>;

/** What a query shows of its rows, or of groups of them, under which condition on groups, and in which order. */
export function resolveShown(context: Context, lines: readonly QueryLine[], loads: readonly Load[]): Shown {
  const { resolution, label } = context;
  const shows = lines.filter((line) => line.kind === 'show');
  const groups = lines.filter((line) => line.kind === 'group by');
  const havings = lines.filter((line): line is HavingLine => line.kind === 'having');
  const orders = lines.filter((line) => line.kind === 'order by');
  const stated = groups.length === 0 ? null : groups.flatMap(({ items }) => items.flatMap((item) => termOf(context, item)));
  const one = stated === null && aggregatesAll(context, shows);
  const groupBy = one ? [] : stated;
  const inGroup: Context = groupBy === null ? context : { ...context, group: groupBy };
  const show = shows.length === 0 ? null : shows.flatMap(({ items }) => columnsOf(inGroup, items));
  const [firstGroup] = groups;
  if (firstGroup !== undefined && shows.length === 0)
    wrong(
      resolution,
      'group-without-show',
      firstGroup.span,
      `${label}: say what is shown of each group, as in “show count(*) as n”.`,
    );
  const [firstHaving] = havings;
  if (firstHaving !== undefined && groupBy === null)
    wrong(
      resolution,
      'having-without-group',
      firstHaving.span,
      `${label}: “having” is a condition on groups, and there are none. Write “where”, or “group by”.`,
    );
  const [firstLoad] = loads;
  if (show !== null && firstLoad !== undefined)
    wrong(
      resolution,
      'show-and-load',
      firstLoad.span,
      `${label}: what is shown is flat, so nothing is loaded below it. Remove the load, and show ${firstLoad.role.name} by a path, as in “${firstLoad.role.name}.…”.`,
    );
  const named: Context = { ...inGroup, shown: new Map(namesOf(shows, show ?? [])) };
  const conditions = groupBy === null ? [] : havings.flatMap(({ condition }) => resolveCondition(named, condition) ?? []);
  const orderBy = orders.flatMap(({ terms }) => resolveOrder(named, terms));
  const distinct = shows.some((line) => line.distinct);
  if (distinct) for (const { expression } of orderBy) ordersShown(context, show ?? [], expression);
  return { show, distinct, groupBy, having: bothOf(conditions), orderBy };
}

function termOf(context: Context, item: Parameters<typeof resolveExpression>[1]): Expression[] {
  const term = resolveExpression(context, item);
  if (term === null) return [];
  if (term.type.kind !== 'json' && term.type.kind !== 'interval' && term.type.kind !== 'null') return [term];
  wrong(
    context.resolution,
    'group-term',
    item.span,
    `${context.label}: rows are grouped by a value that engines can compare, and this is ${term.type.kind}.`,
  );
  return [];
}

/** Is there an aggregate over all rows among what is shown, without a group being named? Then all rows are one group. */
function aggregatesAll(context: Context, shows: readonly ShowLine[]): boolean {
  const quiet: Context = {
    ...context,
    resolution: { ...context.resolution, findings: [], references: new Map() },
    group: [],
  };
  return shows.some(({ items }) =>
    items.some(({ expression }) => {
      const resolved = resolveExpression(quiet, expression);
      return resolved !== null && speaksOfGroup(resolved);
    }),
  );
}

function columnsOf(context: Context, items: ShowLine['items']): ShownColumn[] {
  const { resolution, label } = context;
  const columns: ShownColumn[] = [];
  for (const { expression: written, as, written: text } of items) {
    const expression = resolveExpression(context, written);
    if (expression === null) continue;
    if (as !== null && context.query !== null) refer(resolution.references, as, 'column', context.query, true);
    const name = as?.text ?? nameOf(written, text);
    if (expression.type.kind === 'interval') {
      wrong(resolution, 'shown-interval', written.span, `${label}: an interval alone is no value to show. Add it to a date.`);
    } else if (columns.some((other) => other.name === name)) {
      wrong(
        resolution,
        'shown-twice',
        (as ?? written).span,
        `${label} shows two columns called ${name}. Name one of them, as in “… as ${name}_2”.`,
      );
    } else columns.push({ name, expression, span: written.span });
  }
  return columns;
}

/** The name of a column that is given none: that of the field or role at the end of a path, else as it is written. */
function nameOf(written: ShowLine['items'][number]['expression'], text: string): string {
  if (written.kind !== 'path') return text;
  const { root, steps } = written.path;
  const last = steps.at(-1);
  if (last?.kind === 'member') return last.name.text;
  return root.kind === 'name' ? root.name.text : text;
}

/** The names that the query itself gives to what it shows: other lines may use them. */
function namesOf(shows: readonly ShowLine[], columns: readonly ShownColumn[]): [string, Expression][] {
  const given = shows.flatMap(({ items }) => items.flatMap(({ as }): Name[] => (as === null ? [] : [as])));
  return columns.flatMap(({ name, expression }) => (given.some(({ text }) => text === name) ? [[name, expression]] : []));
}

/** Rows that stand there once can be put in order by what is shown of them alone. */
function ordersShown({ resolution, label }: Context, columns: readonly ShownColumn[], expression: Expression): void {
  if (columns.some((column) => isSame(column.expression, expression))) return;
  wrong(
    resolution,
    'distinct-order',
    expression.span,
    `${label}: several rows may stand behind one that is shown, so the order is by a column that is shown. Show this too, or leave out “distinct”.`,
  );
}

function bothOf(conditions: readonly Expression[]): Expression | null {
  const [first, ...others] = conditions;
  if (first === undefined) return null;
  return others.reduce<Expression>(
    (left, right) => ({ kind: 'binary', operator: 'and', left, right, type: { kind: 'boolean' }, span: right.span }),
    first,
  );
}
