import { rowText } from '../core/edits/index.js';
import { type Entity, type Expression, entityOf, lineage, type Model, queryOf, type Wall } from '../core/model/index.js';
import type { Span } from '../core/notation/index.js';
import { planQuery, TITLE } from '../core/plan/index.js';
import type { Wire } from '../core/values/index.js';
import { askedOfActor, nobody, type Walled, type WallTold, wallsTold } from '../core/walls/index.js';
import { keyIn, kindIn } from '../core/write/index.js';
import { entityCounts } from './browse-rows.js';
import { type LookedAt, preparedFor } from './looked-at.js';
import { actorAt } from './working-as.js';

/** Somebody of one kind that the walls tell from others: nobody, or a row that was found. */
export interface ReachActor {
  /** As a text names them. */
  readonly as: string;
  readonly shown: string;
  /** What makes them another kind, in the words of the text. */
  readonly kind: string;
  /** How many rows are of this kind; null for nobody. */
  readonly rows: number | null;
  /** By entity, those that a wall stands on alone: how many rows they see, and how many they may change. */
  readonly reach: Readonly<Record<string, { readonly read: number; readonly change: number }>>;
}

/** An entity that leads to whoever is at work, though no wall stands on it. */
export interface Unwalled {
  readonly entity: string;
  /** The to-one roles that lead there. */
  readonly path: readonly string[];
}

/** Who sees and changes what. */
export interface Reach {
  readonly actors: readonly ReachActor[];
  /** All entities with how many rows there are; those that a wall stands on are marked. */
  readonly entities: readonly { readonly name: string; readonly rows: number | null; readonly walled: boolean }[];
  readonly walls: readonly WallTold[];
  readonly unwalled: readonly Unwalled[];
  /** The saved queries that see over a wall. */
  readonly lifts: readonly { readonly query: string; readonly walls: readonly string[]; readonly span: Span }[];
}

/** Conditions of walls by which kinds of actors are told apart; of more, each is looked at by itself. */
const MOST_TOGETHER = 4;
/** So many roles lead to whoever is at work at most, where a wall is missed. */
const LONGEST_PATH = 3;

/** Tells who sees and changes what: for each kind of actor that the walls tell apart one that there is, and its rows counted. */
export async function reachOf(lookedAt: LookedAt, options: { readonly signal?: AbortSignal } = {}): Promise<Reach> {
  const { design } = lookedAt;
  const { model } = design;
  const walls = Array.from(model.walls.values());
  const walled = new Set(walls.flatMap(({ conditions }) => Array.from(conditions.keys())));
  const all = await entityCounts(lookedAt, options);
  const actors: ReachActor[] = [];
  const tell = async (told: Omit<ReachActor, 'reach'>, actor: Walled) => {
    const seen = { ...lookedAt, actor };
    const [read, change] = [await entityCounts(seen, options, walled), await entityCounts(seen, options, walled, 'write')];
    const reach = Array.from(walled, (name) => [name, { read: read[name] ?? 0, change: change[name] ?? 0 }] as const);
    actors.push({ ...told, reach: Object.fromEntries(reach) });
  };
  if (walls.length > 0) await tell({ as: 'nobody', shown: 'nobody', kind: 'has not said who', rows: null }, nobody(model));
  for (const { conditions, kind } of walls.length === 0 ? [] : kindsOf(model, walls, design.text)) {
    const found = await firstOf(lookedAt, model.actor ?? '', conditions, options);
    if (found === null) continue;
    const { as, shown, rows } = found;
    const { actor: named } = design.actorOf(as);
    const actor = named === null ? null : await actorAt(lookedAt, named, null, options);
    if (actor?.ok === true && actor.value !== 'system') await tell({ as, shown, kind, rows }, actor.value);
  }
  return {
    actors,
    entities: Array.from(model.entities.keys(), (name) => ({ name, rows: all[name] ?? null, walled: walled.has(name) })),
    walls: wallsTold(model, design.text),
    unwalled: unwalledIn(model, walled),
    lifts: Array.from(model.queries.values()).flatMap(({ name, lifts, span }) =>
      lifts.length === 0 || name === null ? [] : [{ query: name, walls: [...lifts], span }],
    ),
  };
}

/** A kind of actor: what is true of its rows. */
interface ActorKind {
  readonly conditions: readonly Expression[];
  readonly kind: string;
}

/** The kinds of actors that walls may tell apart: by what frees from each, and by values that are asked for and missing. */
function kindsOf(model: Model, walls: readonly Wall[], text: string): readonly ActorKind[] {
  if (model.actor === null) return [];
  const words = ({ start, end }: Span) => text.slice(start, end).replace(/\s+/g, ' ');
  const unless = new Map(walls.flatMap((wall) => wall.unless.map((one) => [words(one.span), one] as const)));
  const values = new Map<string, Expression>();
  for (const value of askedOfActor(model, []).values) if (value.name !== 'me') values.set(value.name, value.expression);
  const whole = Array.from(values.values(), (operand) => isNull(operand, true));
  const freeing = Array.from(unless);
  const together = freeing.length <= MOST_TOGETHER;
  const combinations = together ? 2 ** freeing.length : freeing.length + 1;
  const kinds: ActorKind[] = [];
  for (let at = 0; at < combinations; at++) {
    const holds = (index: number) => (together ? (at & (1 << index)) !== 0 : at === index + 1);
    const told = freeing.flatMap(([said], index) => (holds(index) ? [said] : []));
    kinds.push({
      conditions: [...whole, ...freeing.map(([, condition], index) => truth(condition, holds(index)))],
      kind: told.length === 0 ? `a row of ${model.actor}` : `a row of ${model.actor} of whom ${told.join(' and ')} is true`,
    });
  }
  for (const [name, operand] of values)
    kinds.push({
      conditions: [isNull(operand, false)],
      kind: `a row of ${model.actor} whose ${name.replace(/^me\./, '')} is null`,
    });
  return kinds;
}

/** That a condition is true, or that it is not, be it false or unknown. */
function truth(condition: Expression, holds: boolean): Expression {
  if (holds) return condition;
  const { span } = condition;
  const type = { kind: 'boolean' } as const;
  const value = (one: boolean): Expression => ({ kind: 'value', value: one, type, span });
  const known: Expression = {
    kind: 'case',
    branches: [{ when: condition, then: value(true) }],
    otherwise: value(false),
    type,
    span,
  };
  return { kind: 'binary', operator: '=', left: known, right: value(false), type, span };
}

function isNull(operand: Expression, negated: boolean): Expression {
  return { kind: 'is null', operand, negated, type: { kind: 'boolean' }, span: operand.span };
}

/** The first row of an entity for which conditions hold, and how many there are; null where there is none. */
async function firstOf(
  lookedAt: LookedAt,
  entity: string,
  where: readonly Expression[],
  { signal }: { readonly signal?: AbortSignal },
): Promise<{ readonly as: string; readonly shown: string; readonly rows: number } | null> {
  const { design, engine } = lookedAt;
  const { model } = design;
  const call = signal === undefined ? {} : { signal };
  const read = async (cardinality: 'many' | 'count'): Promise<readonly Readonly<Record<string, Wire>>[]> => {
    const limit: Expression = { kind: 'value', value: 1, type: { kind: 'integer' }, span: NOWHERE };
    const query = queryOf(entity, { where, ...(cardinality === 'count' ? { cardinality } : { limit }) });
    const ready = preparedFor({ ...lookedAt, actor: 'system' }, planQuery(model, query, { titled: true }));
    if (!ready.ok) return [];
    const answer = await engine.run('load', { prepared: ready.prepared, rowLimit: 1, explained: 'not' }, call);
    return answer.ok ? (JSON.parse(answer.value.text) as readonly Readonly<Record<string, Wire>>[]) : [];
  };
  const [row] = await read('many');
  if (row === undefined) return null;
  const [counted] = await read('count');
  const kind = kindIn(entity, row);
  const key = keyIn(model, kind, row);
  const as = rowText({ entity, keyType: entityOf(model, entity).key.type, key: String(key) });
  return { as, shown: String(row[TITLE] ?? as), rows: Number(counted?.count ?? 0) };
}

const NOWHERE = { start: 0, end: 0 };

/** Entities from which to-one roles lead to whoever is at work, and on which no wall stands. */
function unwalledIn(model: Model, walled: ReadonlySet<string>): readonly Unwalled[] {
  const { actor } = model;
  if (actor === null || model.walls.size === 0) return [];
  return Array.from(model.entities.values()).flatMap((entity): Unwalled[] => {
    if (walled.has(entity.name) || (entity.kinds?.base ?? null) !== null || entity.name === actor) return [];
    const path = pathTo(model, entity, actor);
    return path === null ? [] : [{ entity: entity.name, path }];
  });
}

/** The shortest way over to-one roles from an entity to another; null where there is none. */
function pathTo(model: Model, from: Entity, to: string): readonly string[] | null {
  let reached: readonly { readonly entity: string; readonly path: readonly string[] }[] = [{ entity: from.name, path: [] }];
  const seen = new Set([from.name]);
  for (let length = 1; length <= LONGEST_PATH; length++) {
    const next: { entity: string; path: readonly string[] }[] = [];
    for (const { entity, path } of reached) {
      const { roles, polymorphic } = entityOf(model, entity);
      for (const role of [...roles, ...polymorphic.flatMap(({ branches }) => branches)]) {
        if (role.way.kind !== 'key') continue;
        const way = [...path, role.name];
        if (role.target === to || lineage(model, role.target).some(({ name }) => name === to)) return way;
        if (!seen.has(role.target)) next.push({ entity: role.target, path: way });
        seen.add(role.target);
      }
    }
    reached = next;
  }
  return null;
}
