import { operandsIn } from '../model/index.js';
import type { Access, PlannedExpression, PlannedPart } from './access.js';
import type { LoadPlan, PlannedField, QueryPlan } from './plan.js';

/** Every access of a plan, each once: those within its conditions and loads too. */
export function accessesOf(plan: QueryPlan): Access[] {
  const found = new Map<number, Access>();
  const visit = (access: Access): void => {
    if (found.has(access.id)) return;
    found.set(access.id, access);
    for (const step of throughOf(access)) visit(step);
    for (const hop of access.hops) visit(hop);
    for (const condition of access.conditions) within(condition);
    for (const { expression } of access.order) within(expression);
  };
  const within = (expression: PlannedExpression): void => {
    for (const access of spokenOf(expression)) visit(access);
    for (const part of partsOf(expression)) within(part);
  };
  const ofFields = (fields: readonly PlannedField[]): void => {
    for (const field of fields) if (field.kind === 'derived') within(field.expression);
  };
  const ofLoad = ({ owners, steps, rows, output, where, order, limit, loads }: LoadPlan): void => {
    for (const access of [owners, ...steps, rows]) visit(access);
    if (output.kind === 'rows') ofFields(output.fields);
    for (const expression of [where, limit]) if (expression !== null) within(expression);
    for (const { expression } of order) within(expression);
    for (const load of loads) ofLoad(load);
  };
  visit(plan.root);
  const { output } = plan;
  if (output.kind === 'rows') ofFields(output.fields);
  if (output.kind === 'multiplicities') for (const { rows } of output.holding) visit(rows);
  const shown = output.kind === 'count' || output.kind === 'exists' ? output.of : output;
  if (shown?.kind === 'shown' || shown?.kind === 'groups') for (const { expression } of shown.columns) within(expression);
  if (shown?.kind === 'groups') for (const term of [...shown.by, ...(shown.having === null ? [] : [shown.having])]) within(term);
  for (const { expression } of plan.order) within(expression);
  for (const load of plan.loads) ofLoad(load);
  return Array.from(found.values());
}

/** What is read on the way to an access: pairs, or the steps of a path. */
function throughOf({ over }: Access): readonly Access[] {
  switch (over.kind) {
    case 'role':
      return over.pairs === null ? over.steps : [over.pairs, ...over.steps];
    case 'repeated':
      return [over.rows];
    default:
      return [];
  }
}

/** The accesses that an expression itself brings along. */
function spokenOf(expression: PlannedExpression): readonly Access[] {
  switch (expression.kind) {
    case 'quantified':
    case 'aggregated':
      return expression.steps;
    case 'points at':
      return expression.branches;
    case 'same row':
      return [expression.branch, ...expression.branches];
    case 'stored':
      return expression.asks.kind === 'found' ? [expression.asks.there] : [];
    default:
      return [];
  }
}

/** The expressions that stand directly below one. */
function partsOf(expression: PlannedExpression): readonly PlannedExpression[] {
  return operandsIn<PlannedPart>(expression, (part) => {
    switch (part.kind) {
      case 'named':
        return [part.expression];
      case 'same row':
        return part.ofKind === null ? [part.row] : [part.row, part.ofKind];
      case 'quantified':
        return part.test === null ? [] : [part.test];
      case 'aggregated':
        return [part.value];
      case 'of group':
        return part.value === null ? [] : [part.value];
      default:
        return [];
    }
  });
}
