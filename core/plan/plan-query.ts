import { type Entity, type Expression, entityOf, type Load, type Model, type Query, type Role } from '../model/index.js';
import type { PlannedExpression } from './access.js';
import { orders, planned, stepsOver, unfolded } from './expressions.js';
import { type Bearing, fieldsOf, heldKeysOf, pivotFieldsOf } from './fields.js';
import type { LoadPlan, PlannedField, PlanOutput, QueryPlan, ShownOutput } from './plan.js';
import { type Draft, Planning } from './planning.js';

/** How a query's rows are wanted, beside what its text says. */
export interface PlanOptions {
  /** Its rows as the query says them, or their keys alone. */
  readonly output?: 'rows' | 'keys';
  /** The rows whose keys are given when the plan is run, in no certain order, instead of those that its conditions find. */
  readonly byKeys?: boolean;
  /** Each row bears its key as one value, to be fetched by it again, and its title; nothing is loaded but what the query asks for. */
  readonly titled?: boolean;
  /** Of what is loaded, how many rows each owner has, and nothing else. */
  readonly counted?: boolean;
  /** Its rows alone, without what comes along with them. */
  readonly alone?: boolean;
}

/** The plans of a query, by what they were made for. Whoever lets go of the query lets go of them. */
const made = new WeakMap<Query, { readonly model: Model; readonly options: PlanOptions; readonly plan: QueryPlan }[]>();

/**
 * The plan of a query: the accesses to the rows asked for, and to those of each loaded relation. It is made once for a query, a
 * model and options, and is the same value from then on, so that what is made of it can be kept too.
 *
 * @throws PlanTooLarge where scopes that stand on scopes multiply beyond what a statement can hold.
 */
export function planQuery(model: Model, query: Query, options: PlanOptions = {}): QueryPlan {
  const known = made.get(query) ?? [];
  const before = known.find((one) => one.model === model && sameOptions(one.options, options));
  if (before !== undefined) return before.plan;
  const plan = planAnew(model, query, options);
  made.set(query, [...known, { model, options, plan }]);
  return plan;
}

function sameOptions(one: PlanOptions, other: PlanOptions): boolean {
  return (
    (one.output ?? 'rows') === (other.output ?? 'rows') &&
    (one.byKeys ?? false) === (other.byKeys ?? false) &&
    (one.titled ?? false) === (other.titled ?? false) &&
    (one.counted ?? false) === (other.counted ?? false) &&
    (one.alone ?? false) === (other.alone ?? false)
  );
}

function planAnew(model: Model, query: Query, options: PlanOptions): QueryPlan {
  const { output = 'rows', byKeys = false, titled = false, counted = false, alone = false } = options;
  const planning = new Planning(model);
  const entity = entityOf(model, query.entity);
  const root = planning.draft(entity.name, { kind: byKeys ? 'keys' : 'all' });
  for (const condition of query.where) root.conditions.push(planned(planning, root, condition));
  const loading = new Loading(planning, { wholeKey: titled, title: titled }, counted);
  const shown = shownOf(planning, root, query);
  const tells = query.cardinality === 'count' || query.cardinality === 'exists';
  const rows = !tells && shown === null && output === 'rows';
  const order = query.orderBy.length > 0 || query.groupBy !== null || query.distinct ? query.orderBy : entity.orderBy;
  return {
    root,
    cardinality: query.cardinality,
    output: rows
      ? { kind: 'rows', fields: loading.rowFields(root, entity, null, false) }
      : query.cardinality === 'count' || query.cardinality === 'exists'
        ? { kind: query.cardinality, of: shown }
        : (shown ?? { kind: 'keys' }),
    loads: rows && !alone ? loading.loads(query.loads, entity, '', []) : [],
    order: tells || byKeys ? [] : orders(planning, root, order),
    limit: limitOf(planning, root, query),
    offset: query.offset === null ? null : planned(planning, root, query.offset),
    lifts: query.lifts,
    parameters: query.parameters,
  };
}

const COUNT = { kind: 'count', of: null } as const satisfies PlanOutput;

/** What a query shows of its rows, or of groups of them; null where it answers rows with their fields. */
function shownOf(planning: Planning, root: Draft, { show, groupBy, having, distinct }: Query): ShownOutput | null {
  if (show === null) return null;
  const columns = show.map(({ name, expression }) => ({ name, expression: planned(planning, root, expression) }));
  if (groupBy === null) return { kind: 'shown', columns, distinct };
  const by = groupBy.map((term) => planned(planning, root, term));
  return { kind: 'groups', by, columns, having: having === null ? null : planned(planning, root, having), distinct };
}

function limitOf(planning: Planning, root: Draft, { cardinality, limit, span }: Query): PlannedExpression | null {
  const rows = (value: number): Expression => ({ kind: 'value', value, type: { kind: 'integer' }, span });
  if (cardinality === 'first') return planned(planning, root, rows(1));
  if (limit !== null) return planned(planning, root, limit);
  // A second one tells that there are more.
  return cardinality === 'one' ? planned(planning, root, rows(2)) : null;
}

/** Plans what is loaded along with rows. */
class Loading {
  constructor(
    private readonly planning: Planning,
    private readonly bearing: Bearing,
    private readonly counted: boolean,
  ) {}

  /** What each row bears; where nothing is chosen also the keys that it holds. */
  rowFields(row: Draft, entity: Entity, names: readonly string[] | null, branch: boolean): PlannedField[] {
    return [
      ...fieldsOf(this.planning, row, entity, names, this.bearing),
      ...(names === null ? heldKeysOf(this.planning.model, entity) : []),
      { kind: 'kind', always: branch },
    ];
  }

  /** The loads that a query asks for, and those that come along with every row of the entity. */
  loads(loads: readonly Load[], entity: Entity, above: string, chain: readonly Load[]): LoadPlan[] {
    const asked = loads.map((load) => this.load(load, above, chain, load.span));
    // A row that is shown with its title is looked at for itself.
    const along = this.bearing.title || this.counted ? [] : entity.alwaysLoad;
    return [
      ...asked,
      ...along.flatMap(({ load, once }) => {
        const there = loads.some(({ role }) => role.name === load.role.name && role.relation === load.role.relation);
        return there || (once && chain.includes(load)) ? [] : [this.load(load, above, [...chain, load], null)];
      }),
    ];
  }

  private load(load: Load, above: string, chain: readonly Load[], span: LoadPlan['span']): LoadPlan {
    const { planning } = this;
    const { role } = load;
    const target = entityOf(planning.model, role.target);
    const path = above === '' ? role.name : `${above}.${role.name}`;
    const owners = planning.draft(role.entity, { kind: 'owners' }, 'key');
    const { steps, rows } = wayTo(planning, owners, role);
    const where = load.where === null ? null : planned(planning, rows, load.where);
    const output = this.counted ? COUNT : { kind: 'rows' as const, fields: this.loadFields(load, rows, target) };
    const loads = this.loads(load.loads, target, path, chain);
    const stated = load.orderBy.length > 0 ? load.orderBy : role.orderBy.length > 0 ? role.orderBy : target.orderBy;
    const order = role.knows === 'many' && !this.counted ? orders(planning, rows, stated) : [];
    const limit = load.limit === null || this.counted ? null : planned(planning, rows, load.limit);
    return { role, path, owners, steps, rows, branch: load.branch, output, where, order, limit, by: load.by, loads, span };
  }

  private loadFields(load: Load, rows: Draft, target: Entity): PlannedField[] {
    const { role, fields, pivotFields, branch } = load;
    const own = this.rowFields(rows, target, fields, branch);
    if (role.way.kind !== 'pivot') return own;
    return [...own, ...pivotFieldsOf(this.planning.model, role, fields === null ? null : (pivotFields ?? []))];
  }
}

/** The accesses from owners to the rows behind a role of theirs. */
function wayTo(planning: Planning, owners: Draft, role: Role): { readonly steps: readonly Draft[]; readonly rows: Draft } {
  const { way } = role;
  const all = way.kind === 'path' ? unfolded(way.hops) : [{ role, filter: null }];
  const end = all.at(-1);
  if (end === undefined) throw new Error(`${role.name} leads nowhere`);
  // The first of all is sought, and is then one of the kind or none.
  const narrowsFirst = way.kind === 'path' && way.first && end.role.target !== role.target;
  // Asked for as rows of one kind, the end of a path is narrowed to it.
  const hops = narrowsFirst ? all : [...all.slice(0, -1), { ...end, role: { ...end.role, target: role.target } }];
  const steps = stepsOver(planning, owners, hops);
  const last = steps.at(-1) ?? owners;
  if (way.kind === 'path') last.order = orders(planning, last, role.orderBy);
  return { steps, rows: narrowsFirst ? planning.draft(role.target, { kind: 'narrowed', from: last.id }) : last };
}
