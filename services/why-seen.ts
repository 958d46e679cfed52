import { type ActorName, type Expression, entityOf, operandsOf, someExpression, type Wall } from '../core/model/index.js';
import type { Span } from '../core/notation/index.js';
import type { Wire } from '../core/values/index.js';
import { SYSTEM } from '../core/walls/index.js';
import type { Outcome } from '../engines/index.js';
import type { LookedAt } from './looked-at.js';
import { valuesOfRow } from './row-values.js';
import { actorAt } from './working-as.js';

/** A part of a condition, as the text has it, with what it comes to. */
export interface PartValue {
  readonly text: string;
  readonly value: Wire;
}

/** A line of a wall, held against one row. */
export interface LineHeld {
  readonly text: string;
  readonly span: Span;
  /** Unknown is null, and lets nothing through. */
  readonly value: boolean | null;
  readonly parts: readonly PartValue[];
}

/** A wall, held against one row for one actor. */
export interface WallHeld {
  readonly name: string;
  readonly span: Span;
  /** It keeps rows from being read; else from being changed alone. */
  readonly reads: boolean;
  readonly writes: boolean;
  /** The actor is free of it, by one of these conditions on the actor. */
  readonly free: boolean;
  readonly unless: readonly string[];
  readonly lines: readonly LineHeld[];
}

/** Why a row is seen and may be changed, or not. */
export interface WhySeen {
  /** There is such a row at all. */
  readonly there: boolean;
  readonly seen: boolean;
  /** It may be changed and deleted, as far as walls have to say. */
  readonly changed: boolean;
  /** The walls that stand on rows of its entity. */
  readonly walls: readonly WallHeld[];
}

/** What a line comes to for a row: the condition, and the parts of it that are no condition. */
interface Asked {
  readonly wall: Wall;
  readonly holds: Expression;
  readonly parts: readonly Expression[];
}

/**
 * Why an actor sees a row and may change it, or not: each line of each wall on it with its values, looked up outside of all walls.
 *
 * @param row a row by its key or a sample row's name
 */
export async function whySeen(
  lookedAt: Omit<LookedAt, 'actor'>,
  row: Expression,
  as: ActorName,
  options: { readonly now?: string; readonly signal?: AbortSignal } = {},
): Promise<Outcome<WhySeen>> {
  const { design } = lookedAt;
  const { model } = design;
  if (row.type.kind !== 'row') throw new Error('a row is asked about');
  const actor = await actorAt(lookedAt, as, null, options);
  if (!actor.ok) return actor;
  const kind = await kindOf(lookedAt, row, row.type.entity, options);
  if (!kind.ok) return kind;
  const entity = kind.value;
  const standing = Array.from(model.walls.values()).filter((wall) => wall.conditions.has(entity ?? ''));
  if (entity === null || actor.value === SYSTEM)
    return { ok: true, value: { there: entity !== null, seen: entity !== null, changed: entity !== null, walls: [] } };
  const walled = actor.value;
  const asked = standing.flatMap((wall) =>
    (wall.conditions.get(entity) ?? []).flatMap(({ kinds, holds }): Asked[] =>
      kinds === null || kinds.includes(entity) ? [{ wall, holds, parts: valuesIn(holds).filter((part) => part !== holds) }] : [],
    ),
  );
  const shown = asked.flatMap(({ holds, parts }) => [holds, ...parts]);
  const found = await valuesOfRow(lookedAt, entity, row, shown, { ...options, me: walled });
  if (!found.ok) return found;
  const cells = found.value?.values() ?? [][Symbol.iterator]();
  const next = (): Wire => cells.next().value ?? null;
  const text = ({ start, end }: Span) => design.text.slice(start, end);
  const isBlind = (holds: Expression) => walled.me === null && someExpression(holds, (part) => part.kind === 'me');
  const lines = asked.map(({ wall, holds, parts }) => {
    const value = next();
    const told = parts.map((part): PartValue => ({ text: text(part.span), value: next() }));
    const known = isBlind(holds) ? false : typeof value === 'boolean' ? value : null;
    return { wall, line: { text: text(holds.span), span: holds.span, value: known, parts: told } };
  });
  const stands = new Set(walled.walls.map(({ name }) => name));
  const walls = standing.flatMap((wall): WallHeld[] => {
    const own = lines.flatMap((one) => (one.wall === wall ? [one.line] : []));
    if (own.length === 0) return [];
    const unless = wall.unless.map(({ span }) => text(span));
    const { name, head: span, reads, writes } = wall;
    return [{ name, span, reads, writes, free: !stands.has(name), unless, lines: own }];
  });
  const holds = ({ free, lines: held }: WallHeld) => free || held.every(({ value }) => value === true);
  const seen = walls.every((wall) => !wall.reads || holds(wall));
  return { ok: true, value: { there: true, seen, changed: seen && walls.every(holds), walls } };
}

/** The kind of a row: the walls of that kind stand on it, whichever entity it is asked for by. Null where there is no such row. */
async function kindOf(
  lookedAt: Omit<LookedAt, 'actor'>,
  row: Expression,
  name: string,
  options: { readonly now?: string; readonly signal?: AbortSignal },
): Promise<Outcome<string | null>> {
  const { model } = lookedAt.design;
  const concrete = entityOf(model, name).kinds?.concrete.map(({ entity }) => entity) ?? [name];
  const isKind = (kind: string): Expression => {
    const { span } = row;
    return { kind: 'is kind', hops: [], kinds: [kind], negated: false, type: { kind: 'boolean' }, span };
  };
  const several = concrete.length > 1 || concrete[0] !== name;
  const found = await valuesOfRow(lookedAt, name, row, several ? concrete.map(isKind) : [], options);
  if (!found.ok || found.value === null) return found.ok ? { ok: true, value: null } : found;
  return { ok: true, value: several ? (concrete[found.value.indexOf(true)] ?? name) : name };
}

/** The parts of a condition that are values and no conditions, as a person would look them up; constants say what they are. */
function valuesIn(condition: Expression): Expression[] {
  switch (condition.kind) {
    case 'field':
    case 'role':
    case 'me':
      return [condition];
    case 'named':
    case 'quantified':
    case 'aggregated':
    case 'is kind':
    case 'points at':
      return [condition];
    default:
      return operandsOf(condition).flatMap(valuesIn);
  }
}
