import {
  type Expression,
  entityOf,
  type Hop,
  isNarrowed,
  lineage,
  type Model,
  type Order,
  pivotOf,
  type Role,
  type RowPart,
  readsRow,
  written,
} from '../model/index.js';
import type { Access, PlannedExpression, PlannedOrder } from './access.js';
import { type Draft, type Planning, pairsOf, walkedBefore } from './planning.js';

/** An expression of the model over the rows of an access: every walk over a relation in it becomes an access. */
export function planned(planning: Planning, row: Draft, expression: Expression): PlannedExpression {
  planning.grow();
  return within(planning, row, expression);
}

function within(planning: Planning, row: Draft, expression: Expression): PlannedExpression {
  return withParts(expression, (part) => partOf(planning, row, part));
}

/** An expression in which every part that speaks of a row is replaced. */
export function withParts(expression: Expression, replaced: (part: RowPart) => PlannedExpression): PlannedExpression {
  const inner = (operand: Expression) => withParts(operand, replaced);
  switch (expression.kind) {
    case 'value':
    case 'clock':
    case 'interval':
    case 'parameter':
    case 'me':
    case 'sample row':
      return expression;
    case 'binary':
      return { ...expression, left: inner(expression.left), right: inner(expression.right) };
    case 'not':
    case 'negate':
    case 'is null':
      return { ...expression, operand: inner(expression.operand) };
    case 'in':
      return { ...expression, operand: inner(expression.operand), items: expression.items.map(inner) };
    case 'between':
      return {
        ...expression,
        operand: inner(expression.operand),
        low: inner(expression.low),
        high: inner(expression.high),
      };
    case 'like':
      return { ...expression, operand: inner(expression.operand), pattern: inner(expression.pattern) };
    case 'function':
      return { ...expression, args: expression.args.map(inner) };
    case 'case':
      return {
        ...expression,
        branches: expression.branches.map(({ when, then }) => ({ when: inner(when), then: inner(then) })),
        otherwise: expression.otherwise === null ? null : inner(expression.otherwise),
      };
    default:
      return replaced(expression);
  }
}

/** A part that speaks of a row, of the one that its hops lead to. */
function partOf(planning: Planning, row: Draft, part: RowPart): PlannedExpression {
  switch (part.kind) {
    case 'field': {
      const { hops, ...rest } = part;
      return { ...rest, access: reading(walked(planning, row, hops)) };
    }
    case 'pivot field':
      return { ...part, access: pairsOf(row) };
    case 'role': {
      const { hops, ...rest } = part;
      return { ...rest, access: walked(planning, row, hops).id };
    }
    case 'named': {
      const { hops, ...rest } = part;
      const there = walked(planning, row, hops);
      return { ...rest, access: reading(there), expression: planned(planning, there, part.expression) };
    }
    case 'is kind': {
      const { hops, ...rest } = part;
      return { ...rest, access: reading(walked(planning, row, hops)) };
    }
    case 'points at': {
      const { hops, branches, ...rest } = part;
      const there = walked(planning, row, hops);
      return { ...rest, access: reading(there), branches: branches.map((branch) => hop(planning, there, branch)) };
    }
    case 'same row':
      return sameRow(planning, row, part);
    case 'quantified':
      return part.quantifier === 'count' ? once(planning, row, part, quantified) : quantified(planning, row, part);
    case 'aggregated':
      return once(planning, row, part, aggregated);
    case 'of group':
      return { ...part, access: row.id, value: part.value === null ? null : planned(planning, row, part.value) };
    case 'group term':
      return { ...part, access: row.id };
  }
}

function reading(access: Draft): number {
  access.reads = 'row';
  return access.id;
}

function sameRow(planning: Planning, row: Draft, part: Extract<RowPart, { kind: 'same row' }>): PlannedExpression {
  const { hops, branch, branches, row: other, ...rest } = part;
  const { model } = planning;
  const there = walked(planning, row, hops);
  const { way } = branch;
  const kindTold = !isNarrowed(model, branch) || (way.kind === 'key' && way.mark !== null && marksKind(model, branch));
  const narrowed = kindTold ? null : narrowedBy(model, branch);
  return {
    ...rest,
    access: reading(there),
    branch: hop(planning, there, branch),
    branches: branches.map((one) => hop(planning, there, one)),
    row: planned(planning, row, other),
    ofKind:
      narrowed === null
        ? null
        : {
            kind: 'is kind',
            access: reading(hop(planning, there, narrowed.role)),
            kinds: narrowed.kinds,
            negated: false,
            type: part.type,
            span: part.span,
          },
  };
}

/** Each kind with a table of its own has a mark of its own. */
function marksKind(model: Model, { target }: Role): boolean {
  return entityOf(model, target).kinds?.storage.kind === 'separate tables';
}

/** The role to the row behind a branch as the relation states it, and the kinds that the row may be of. */
function narrowedBy(model: Model, branch: Role): { readonly role: Role; readonly kinds: readonly string[] } {
  const relation = model.relations.get(branch.relation);
  const targets = relation?.kind === 'polymorphic' ? relation.targets.map(({ entity }) => entity) : [];
  const base = lineage(model, branch.target).find(({ name }) => targets.includes(name))?.name ?? branch.target;
  const kinds = entityOf(model, branch.target).kinds?.concrete.map(({ entity }) => entity) ?? [];
  return { role: { ...branch, target: base }, kinds };
}

/** The same count or aggregate of the same row is one part of the plan, however often it is named. */
function once<Part extends RowPart>(
  planning: Planning,
  row: Draft,
  part: Part,
  make: (planning: Planning, row: Draft, part: Part) => PlannedExpression,
): PlannedExpression {
  const name = `${row.id}\n${written(part)}`;
  const made = planning.counts.get(name) ?? make(planning, row, part);
  planning.counts.set(name, made);
  return made;
}

function quantified(planning: Planning, row: Draft, part: Extract<RowPart, { kind: 'quantified' }>): PlannedExpression {
  const { hops, test, ...rest } = part;
  const steps = stepsOver(planning, row, unfolded(hops));
  const last = steps.at(-1);
  if (last === undefined) throw new Error('a quantifier needs a hop');
  return { ...rest, access: row.id, steps, test: test === null ? null : planned(planning, last, test) };
}

function aggregated(planning: Planning, row: Draft, part: Extract<RowPart, { kind: 'aggregated' }>): PlannedExpression {
  const { hops, value, ...rest } = part;
  const steps = stepsOver(planning, row, unfolded(hops));
  const last = steps.at(-1);
  if (last === undefined) throw new Error('an aggregate needs a hop');
  return { ...rest, access: row.id, steps, value: planned(planning, last, value) };
}

/** The access behind to-one hops, each walked once. */
function walked(planning: Planning, row: Draft, hops: readonly Role[]): Draft {
  return hops.reduce((from, role) => hop(planning, from, role), row);
}

/** The access behind one to-one role; until something of its row is read its key alone is looked at. */
function hop(planning: Planning, from: Draft, role: Role): Draft {
  const known = walkedBefore(from.hops, role);
  if (known !== undefined) return known;
  const made = behind(planning, from, role);
  from.hops.push(made);
  return made;
}

function behind(planning: Planning, from: Draft, role: Role, reads: Access['reads'] = 'key'): Draft {
  const { way } = role;
  const pairs =
    way.kind === 'pivot'
      ? planning.draft(pivotOf(planning.model, role.relation).entity, { kind: 'pairs', from: from.id, role })
      : null;
  const steps = way.kind === 'path' ? stepsOver(planning, from, unfolded(way.hops)) : [];
  const end = steps.at(-1);
  if (end !== undefined) end.order = orders(planning, end, role.orderBy);
  return planning.draft(role.target, { kind: 'role', from: from.id, role, pairs, steps }, reads);
}

/** Accesses hop by hop from the rows of another, each with its own condition. */
export function stepsOver(planning: Planning, from: Draft, hops: readonly Hop[]): Draft[] {
  const steps: Draft[] = [];
  for (const { role, filter } of hops) {
    const step = behind(planning, steps.at(-1) ?? from, role, 'row');
    if (filter !== null) step.conditions.push(planned(planning, step, filter));
    steps.push(step);
  }
  return steps;
}

/** Hops of which none is a path to many rows: such a path is walked hop by hop. */
export function unfolded(hops: readonly Hop[]): Hop[] {
  return hops.flatMap(({ role, filter }): Hop[] => {
    const { way } = role;
    if (way.kind !== 'path' || way.first) return [{ role, filter }];
    const inner = unfolded(way.hops);
    const last = inner.at(-1);
    if (last === undefined) return [];
    // Asked for as rows of one kind, its end is narrowed to it.
    const end = { ...last.role, target: role.target };
    return [...inner.slice(0, -1), { role: end, filter: bothOf(last.filter, filter) }];
  });
}

function bothOf(left: Expression | null, right: Expression | null): Expression | null {
  if (left === null || right === null) return left ?? right;
  return { kind: 'binary', operator: 'and', left, right, type: { kind: 'boolean' }, span: right.span };
}

/** The terms of an order over the rows of an access. What is the same for all rows orders none. */
export function orders(planning: Planning, row: Draft, terms: readonly Order[]): PlannedOrder[] {
  return terms
    .filter(({ expression }) => readsRow(expression))
    .map(({ expression, descending }) => ({ expression: planned(planning, row, expression), descending }));
}
