import { type Constant, type Expression, entityOf, type Field, fieldOf, type Model } from '../model/index.js';
import type { Access, PlannedExpression, PlannedOrder, StoredPart, StoredRows, StoredTest } from './access.js';
import { withParts } from './expressions.js';
import type { Holding, PlanOutput, QueryPlan } from './plan.js';
import { Planning } from './planning.js';

type HeldAsText = Extract<StoredTest, { kind: 'found' }>['heldAsText'];

const SPAN = { start: 0, end: 0 };
const BOOLEAN = { kind: 'boolean' } as const;

/**
 * A look at rows as they stand in their tables, whether or not they hold to the model: for what a check or a profile asks, and the
 * notation cannot say. It makes the conditions on them, and the plans.
 */
class Look {
  constructor(
    private readonly planning: Planning,
    readonly rows: Access,
  ) {}

  asks(asks: StoredTest): StoredPart {
    return { kind: 'stored', access: this.rows.id, asks, type: BOOLEAN, span: SPAN };
  }

  isEmpty(column: string): PlannedExpression {
    return { kind: 'is null', operand: this.asks({ kind: 'column', column }), negated: false, type: BOOLEAN, span: SPAN };
  }

  isFilled(column: string): PlannedExpression {
    return { kind: 'is null', operand: this.asks({ kind: 'column', column }), negated: true, type: BOOLEAN, span: SPAN };
  }

  /**
   * Whether the key that stands in these columns is that of a row of an entity, or of none.
   *
   * @param heldAsText the type of that entity's key, where the columns hold it as text
   */
  leadsTo(entity: string, columns: readonly string[], heldAsText: HeldAsText, negated: boolean): PlannedExpression {
    const there = lookAtEntity(this.planning.model, entity, this.planning);
    const key = entityOf(this.planning.model, entity).key.columns;
    return this.found(there, columns, key, heldAsText, negated);
  }

  /** Whether there is, or is not, a row of another look that has in its key what stands in these columns. */
  found(
    there: StoredLook,
    columns: readonly string[],
    key: readonly string[],
    heldAsText: HeldAsText,
    negated: boolean,
    where: PlannedExpression | null = null,
  ): PlannedExpression {
    const access = { ...there.rows, conditions: where === null ? [] : [where] };
    return this.asks({ kind: 'found', columns, there: access, key, heldAsText, negated });
  }

  /** Whether a check over fields that have columns here is false. */
  fails(check: Expression, fields: readonly Field[]): PlannedExpression {
    const operand = withParts(check, (part) => {
      if (part.kind !== 'field' && part.kind !== 'pivot field') throw new Error(`a check cannot hold ${part.kind}`);
      const { type, span } = part;
      return { ...this.asks({ kind: 'field', field: fieldOf(fields, part.field) }), type, span };
    });
    return { kind: 'not', operand, type: BOOLEAN, span: check.span };
  }

  /** Looks at other rows beside these. */
  beside(rows: StoredRows): StoredLook {
    return lookAt(this.planning, rows);
  }

  /** What stands in these columns of more than one row. */
  repeated(columns: readonly string[]): StoredLook {
    const where = allHold(columns.map((column) => this.isFilled(column)));
    const rows: Access = { ...this.rows, conditions: where === null ? [] : [where] };
    return new Look(this.planning, this.planning.draft(null, { kind: 'repeated', rows, columns }));
  }

  /** The plan of what a condition is true for; null for all rows. */
  plan(
    where: PlannedExpression | null,
    output: PlanOutput,
    order: readonly string[] = [],
    most: number | null = null,
  ): QueryPlan {
    return {
      root: { ...this.rows, conditions: where === null ? [] : [where] },
      cardinality: output.kind === 'count' ? 'count' : 'many',
      output,
      order: order.map((column): PlannedOrder => ({ expression: this.asks({ kind: 'column', column }), descending: false })),
      limit: most === null ? null : rowsAtMost(most),
      offset: null,
      loads: [],
      lifts: [],
      parameters: [],
    };
  }

  /** Rows that hold the key of others in these columns, of which a condition is true. */
  holding(columns: readonly string[], where: PlannedExpression | null): Holding {
    return { rows: { ...this.rows, conditions: where === null ? [] : [where] }, columns };
  }
}

export type StoredLook = Look;

/** Looks at the rows of an entity, in the table or the tables where they stand. */
export function lookAtEntity(model: Model, entity: string, planning = new Planning(model)): StoredLook {
  return lookAt(planning, { kind: 'entity', entity });
}

/** Looks at all rows of a table. */
export function lookAtTable(model: Model, table: Extract<StoredRows, { kind: 'table' }>['table']): StoredLook {
  return lookAt(new Planning(model), { kind: 'table', table });
}

function lookAt(planning: Planning, rows: StoredRows): StoredLook {
  return new Look(planning, planning.draft(rows.kind === 'entity' ? rows.entity : null, { kind: 'stored', rows }));
}

function rowsAtMost(value: number): Constant {
  return { kind: 'value', value, type: { kind: 'integer' }, span: SPAN };
}

/** True where all of them are; null where there are none. */
export function allHold(conditions: readonly (PlannedExpression | null)[]): PlannedExpression | null {
  return joined('and', conditions);
}

/** True where any of them is; null where there are none. */
export function anyHolds(conditions: readonly (PlannedExpression | null)[]): PlannedExpression | null {
  return joined('or', conditions);
}

function joined(operator: 'and' | 'or', conditions: readonly (PlannedExpression | null)[]): PlannedExpression | null {
  let whole: PlannedExpression | null = null;
  for (const condition of conditions) {
    if (condition === null) continue;
    whole = whole === null ? condition : { kind: 'binary', operator, left: whole, right: condition, type: BOOLEAN, span: SPAN };
  }
  return whole;
}
