import { closingLine, isNotTrue, isRow, namedRow, ownLine, reachedWhere } from '../core/audit/index.js';
import { type AuditCode, meantBy } from '../core/checks/index.js';
import { nameText } from '../core/edits/index.js';
import {
  type Entity,
  type Expression,
  entityOf,
  type Hop,
  lineage,
  type Model,
  type Role,
  someExpression,
  type Wall,
} from '../core/model/index.js';
import type { Fix, Span } from '../core/notation/index.js';
import type { AuditedReads } from './audit-reads.js';
import { anyBehind, isIt, witnessOf, witnessWhere } from './audit-witnesses.js';

/** Something that the walls of a text leave open, or hardly mean: a row got out, or it is doubtful. */
export interface Hole {
  readonly code: AuditCode;
  /** *leak*: a row is reached that belongs to others. *doubt*: on these rows nothing is lost, but hardly meant. */
  readonly weight: 'leak' | 'doubt';
  readonly message: string;
  /** Where in the text. */
  readonly span: Span;
  /** Whoever reaches the row, and the row; null where it is none. */
  readonly as: string | null;
  readonly row: string | null;
  /** What a person can try to see it. */
  readonly text: string | null;
  readonly fix: Fix | null;
}

/** So many roles lead to whoever rows belong to, at most. */
const LONGEST_PATH = 3;

/**
 * What the walls of a text leave open on the rows of a database.
 *
 * @param everybody kinds of actors that the walls tell apart, without nobody, and some more rows of the actor's entity
 */
export async function holesIn(everybody: readonly AuditedReads[]): Promise<readonly Hole[]> {
  const [first] = everybody;
  if (first === undefined) return [];
  const { model, findings } = first.lookedAt.design;
  const holes: Hole[] = [];
  for (const entity of model.entities.values()) {
    holes.push(...(await belongingTo(everybody, entity)));
    holes.push(...(await seenApart(everybody, entity)));
  }
  for (const wall of model.walls.values()) holes.push(...(await ofWall(everybody, wall)));
  for (const { code, span, message } of findings) if (code === 'wall-opens') holes.push(await openAt(everybody, span, message));
  const told = holes.filter(({ code, span }) => meantBy(model, code, span) === undefined);
  return [...told.filter(({ weight }) => weight === 'leak'), ...told.filter(({ weight }) => weight === 'doubt')];
}

/** A path of roles that every row has, from an entity to one that it belongs to. */
interface Belonging {
  readonly path: readonly Role[];
  readonly target: string;
}

/** The entities that rows of one belong to: over roles behind which there is always a row. */
function belongings(model: Model, entity: Entity): readonly Belonging[] {
  const found: Belonging[] = [];
  let reached: readonly Belonging[] = [{ path: [], target: entity.name }];
  const seen = new Set([entity.name]);
  for (let length = 1; length <= LONGEST_PATH; length++) {
    const next: Belonging[] = [];
    for (const { path, target } of reached) {
      const { roles, polymorphic } = entityOf(model, target);
      const owners = [...roles, ...polymorphic.filter(({ knows }) => knows === 'one').flatMap(({ branches }) => branches)];
      for (const role of owners) {
        if (role.way.kind !== 'key' || role.knows !== 'one' || seen.has(role.target)) continue;
        seen.add(role.target);
        next.push({ path: [...path, role], target: role.target });
      }
    }
    found.push(...next);
    reached = next;
  }
  return found;
}

function hasWall(model: Model, { name }: Entity): boolean {
  return Array.from(model.walls.values()).some(({ conditions }) => conditions.has(name));
}

/** Rows that belong to somebody else, or to a row that is out of reach, and that no wall stands on. */
async function belongingTo(everybody: readonly AuditedReads[], entity: Entity): Promise<readonly Hole[]> {
  const [first] = everybody;
  if (first === undefined) return [];
  const { design } = first.lookedAt;
  const { model } = design;
  if (entity.name === model.actor && !hasWall(model, entity)) return ofActors(everybody, entity);
  const isSpokenOf = hasWall(model, entity) || entity.name === model.actor || kindsHaveWalls(model, entity);
  if (isSpokenOf) return [];
  // What a kind has from its base is told of the base, where no other kind of it has a wall.
  const root = (entity.kinds?.base ?? null) === null ? null : entityOf(model, entity.kinds?.root ?? entity.name);
  const isTold = root !== null && !kindsHaveWalls(model, root);
  for (const { path, target } of belongings(model, entity)) {
    if (isTold && path[0]?.entity !== entity.name) continue;
    for (const reads of everybody) {
      const others = othersOf(reads, target);
      if (others === null) continue;
      const row = await witnessWhere(reads, entity.name, [leadingTo(path, others)]);
      if (row === null) continue;
      const names = path.map(({ name }) => name);
      const walled = wallOn(reads, target);
      const fix =
        (walled === null ? null : closingLine(design, walled, entity.name, names, target)) ??
        ownLineOver(reads, entity.name, names, target);
      const named = namedRow(model, row);
      const said =
        walled === null ? `it belongs to another ${target}` : `it belongs to a ${target} whom wall ${walled} hides from them`;
      return [
        {
          code: 'no-wall',
          weight: 'leak',
          message: `No wall stands on ${entity.name}: ${reads.audited.as} reads and changes ${named}, and ${said}, over ${names.join('.')}.`,
          span: entity.head,
          as: reads.audited.as,
          row: named,
          text: `from ${nameText(entity.name)}\nwhere ${isRow(model, row)}`,
          fix,
        },
      ];
    }
  }
  return [];
}

/** The rows of those who are at work, where no wall stands on them. */
async function ofActors(everybody: readonly AuditedReads[], entity: Entity): Promise<readonly Hole[]> {
  for (const reads of everybody) {
    const others = othersOf(reads, entity.name);
    const row = others === null ? null : await witnessWhere(reads, entity.name, [others]);
    if (row === null) continue;
    const { model } = reads.lookedAt.design;
    const named = namedRow(model, row);
    const { as } = reads.audited;
    return [
      {
        code: 'no-wall',
        weight: 'doubt',
        message: `No wall stands on ${entity.name}, which those at work are rows of: ${as} reads and changes ${named}, and every other.`,
        span: entity.head,
        as,
        row: named,
        text: `from ${nameText(entity.name)}\nwhere ${isRow(model, row)}`,
        fix: null,
      },
    ];
  }
  return [];
}

function kindsHaveWalls(model: Model, { kinds }: Entity): boolean {
  return (kinds?.concrete ?? []).some(({ entity }) =>
    Array.from(model.walls.values()).some(({ conditions }) => conditions.has(entity)),
  );
}

function ownLineOver(
  { lookedAt: { design } }: AuditedReads,
  entity: string,
  path: readonly string[],
  target: string,
): Fix | null {
  const isActor = lineage(design.model, target).some(({ name }) => name === design.model.actor);
  return isActor ? ownLine(design, entity, path) : null;
}

/** What is true of the rows of an entity that are not for somebody: those out of reach, or of the actor's own entity all but theirs. */
function othersOf(reads: AuditedReads, target: string): Expression | null {
  const reached = reachedWhere(reads.audited, target, 'read');
  if (reached !== null) return isNotTrue(reached);
  const { model } = reads.lookedAt.design;
  if (target !== model.actor || wallsOf(model, target).length > 0 || reads.named.kind !== 'row') return null;
  return isNotTrue(isIt(target, reads.named.row));
}

function wallsOf(model: Model, entity: string): readonly Wall[] {
  return Array.from(model.walls.values()).filter(({ conditions }) => conditions.has(entity));
}

/** The wall that keeps rows of an entity from somebody. */
function wallOn({ audited }: AuditedReads, entity: string): string | null {
  return audited.walls.find(({ conditions, reads }) => reads && conditions.has(entity))?.name ?? null;
}

function leadingTo(path: readonly Role[], condition: Expression): Expression {
  return anyBehind(path.map((role, at): Hop => ({ role, filter: at === path.length - 1 ? condition : null })));
}

/** A row that walls let through, though it belongs to one that they do not. */
async function seenApart(everybody: readonly AuditedReads[], entity: Entity): Promise<readonly Hole[]> {
  for (const reads of everybody) {
    const { model } = reads.lookedAt.design;
    const own = reachedWhere(reads.audited, entity.name, 'read');
    if (own === null) continue;
    for (const { path, target } of belongings(model, entity).filter((one) => one.path.length === 1)) {
      const reached = reachedWhere(reads.audited, target, 'read');
      if (reached === null || target === entity.name) continue;
      const row = await witnessWhere(reads, entity.name, [own, leadingTo(path, isNotTrue(reached))]);
      if (row === null) continue;
      const named = namedRow(model, row);
      const [role] = path;
      return [
        {
          code: 'seen-apart',
          weight: 'doubt',
          message: `${reads.audited.as} sees ${named}, and not the ${target} that it belongs to, over ${role?.name}: are the walls on ${entity.name} and ${target} meant to part them?`,
          span: wallsOf(model, entity.name)[0]?.head ?? entity.head,
          as: reads.audited.as,
          row: named,
          text: `from ${nameText(entity.name)}\nwhere ${isRow(model, row)}\nload ${nameText(role?.name ?? '')}`,
          fix: null,
        },
      ];
    }
  }
  return [];
}

/** A wall that keeps nothing, lets nothing through, keeps nobody, or keeps rows from being read alone. */
async function ofWall(everybody: readonly AuditedReads[], wall: Wall): Promise<readonly Hole[]> {
  const [first] = everybody;
  if (first === undefined) return [];
  const { model } = first.lookedAt.design;
  const holes: Hole[] = [];
  const doubt = (code: AuditCode, message: string): Hole => ({
    code,
    weight: 'doubt',
    message,
    span: wall.head,
    as: null,
    row: null,
    text: null,
    fix: null,
  });
  const held = everybody.filter(({ audited }) => audited.walls.includes(wall));
  if (held.length === 0 && wall.unless.length > 0)
    return [
      doubt(
        'frees-all',
        `Wall ${wall.name} keeps nothing: of all rows of ${model.actor} that were looked at each is free of it, by its unless.`,
      ),
    ];
  for (const [name, lines] of wall.conditions) {
    const entity = entityOf(model, name);
    const ofBase = wall.conditions.get(entity.kinds?.base ?? '') ?? [];
    // A line is told of once: of a base where it is for all of its kinds, else of the kind.
    const isTold = ofBase.some(({ kinds }) => kinds === null) || lines.every(({ kinds }) => kinds !== null);
    if (isTold || (await witnessOf(first, name, 'read', 'any')) === null) continue;
    const passes = async (reads: AuditedReads, isLet: boolean) => {
      const own = reachedWhere({ walls: [wall], isNobody: false }, name, 'change');
      return own !== null && (await witnessWhere(reads, name, [isLet ? own : isNotTrue(own)])) !== null;
    };
    if (held.length > 0 && !(await someOf(held, (reads) => passes(reads, false))))
      holes.push(
        doubt(
          'lets-all-through',
          `Wall ${wall.name} keeps no row of ${name} from anybody: what it asks is true of all that there are, for each ${model.actor} that was looked at.`,
        ),
      );
    if (held.length > 0 && !(await someOf(held, (reads) => passes(reads, true))))
      holes.push(
        doubt(
          'lets-none-through',
          `Wall ${wall.name} lets no row of ${name} through to anybody: what it asks is true of none that there is, for each ${model.actor} that was looked at.`,
        ),
      );
    const isKeptOnWrite = Array.from(model.walls.values()).some((other) => other.writes && other.conditions.has(name));
    if (wall.reads && !wall.writes && !isKeptOnWrite && !entity.given)
      holes.push(
        doubt(
          'read-alone',
          `Wall ${wall.name} keeps rows of ${name} from being read alone: whoever is at work can make and move rows behind it. Leave “on read” out to keep both.`,
        ),
      );
  }
  return holes;
}

async function someOf(all: readonly AuditedReads[], test: (reads: AuditedReads) => Promise<boolean>): Promise<boolean> {
  for (const one of all) if (await test(one)) return true;
  return false;
}

/** A line that may be true where the actor lacks a value: a leak, where there is such an actor and they see rows by it. */
async function openAt(everybody: readonly AuditedReads[], span: Span, message: string): Promise<Hole> {
  const [first] = everybody;
  const walls = Array.from(first?.lookedAt.design.model.walls.values() ?? []);
  for (const reads of everybody)
    for (const { conditions } of walls.filter((wall) => reads.audited.walls.includes(wall)))
      for (const [entity, lines] of conditions)
        for (const { holds } of lines) {
          const isIt = holds.span.start <= span.start && span.end <= holds.span.end;
          const lacks = someExpression(holds, (part) => part.kind === 'me' && (reads.audited.me.get(part.name) ?? null) === null);
          const row = isIt && lacks ? await witnessWhere(reads, entity, [holds]) : null;
          if (row === null) continue;
          const named = namedRow(reads.lookedAt.design.model, row);
          const { as } = reads.audited;
          return {
            code: 'opens-when-null',
            weight: 'leak',
            message: `${message} ${as} lacks it, and sees ${named}.`,
            span,
            as,
            row: named,
            text: `from ${nameText(entity)}\nwhere ${isRow(reads.lookedAt.design.model, row)}`,
            fix: null,
          };
        }
  const { code, weight } = { code: 'opens-when-null', weight: 'doubt' } as const;
  return {
    code,
    weight,
    message: `${message} Nobody lacks it among the rows that were looked at.`,
    span,
    as: null,
    row: null,
    text: null,
    fix: null,
  };
}
