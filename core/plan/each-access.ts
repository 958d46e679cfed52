import { operandsIn } from '../model/index.js';
import type { Access, PlannedExpression, PlannedPart } from './access.js';
import type { LoadPlan, PlannedField, QueryPlan } from './plan.js';

/** Every access of a plan, each once: those within its conditions and loads too. */
export function accessesOf(plan: QueryPlan): Access[] {
  const visited = new Visit();
  visited.plan(plan);
  return Array.from(visited.found.values());
}

/** Every access below one, each once: those that it is reached over, its hops, and those within its conditions. */
export function accessesBelow(access: Access): Access[] {
  const visited = new Visit();
  visited.access(access);
  visited.found.delete(access.id);
  return Array.from(visited.found.values());
}

/** Goes through the accesses of a plan. */
class Visit {
  readonly found = new Map<number, Access>();

  access(access: Access): void {
    if (this.found.has(access.id)) return;
    this.found.set(access.id, access);
    for (const step of throughOf(access)) this.access(step);
    for (const hop of access.hops) this.access(hop);
    for (const condition of access.conditions) this.within(condition);
    for (const { expression } of access.order) this.within(expression);
  }

  plan(plan: QueryPlan): void {
    this.access(plan.root);
    const { output } = plan;
    if (output.kind === 'rows') this.fields(output.fields);
    if (output.kind === 'multiplicities') for (const { rows } of output.holding) this.access(rows);
    const shown = output.kind === 'count' || output.kind === 'exists' ? output.of : output;
    if (shown?.kind === 'shown' || shown?.kind === 'groups') for (const { expression } of shown.columns) this.within(expression);
    if (shown?.kind === 'groups')
      for (const term of [...shown.by, ...(shown.having === null ? [] : [shown.having])]) this.within(term);
    for (const { expression } of plan.order) this.within(expression);
    for (const load of plan.loads) this.load(load);
  }

  private within(expression: PlannedExpression): void {
    for (const access of spokenOf(expression)) this.access(access);
    for (const part of partsOf(expression)) this.within(part);
  }

  private fields(fields: readonly PlannedField[]): void {
    for (const field of fields) if (field.kind === 'derived') this.within(field.expression);
  }

  private load({ owners, steps, rows, output, where, order, limit, loads }: LoadPlan): void {
    for (const access of [owners, ...steps, rows]) this.access(access);
    if (output.kind === 'rows') this.fields(output.fields);
    for (const expression of [where, limit]) if (expression !== null) this.within(expression);
    for (const { expression } of order) this.within(expression);
    for (const load of loads) this.load(load);
  }
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
export function partsOf(expression: PlannedExpression): readonly PlannedExpression[] {
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
