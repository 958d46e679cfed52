import { isNotTrue, namedRow, reachedWhere } from '../core/audit/index.js';
import { type AuditCode, meantBy } from '../core/checks/index.js';
import { entityOf, someExpression, type Wall } from '../core/model/index.js';
import type { Span } from '../core/notation/index.js';
import { belongingTo, seenApart } from './audit-belongings.js';
import { doubtOf, type Hole, holeOf } from './audit-hole.js';
import type { AuditedReads } from './audit-reads.js';
import { witnessOf, witnessWhere } from './audit-witnesses.js';

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

/** A wall that keeps nothing, lets nothing through, keeps nobody, or keeps rows from being read alone. */
async function ofWall(everybody: readonly AuditedReads[], wall: Wall): Promise<readonly Hole[]> {
  const [first] = everybody;
  if (first === undefined) return [];
  const { model } = first.lookedAt.design;
  const holes: Hole[] = [];
  const doubt = (code: AuditCode, message: string) => doubtOf(code, wall.head, message);
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
          const told = `${message} ${reads.audited.as} lacks it, and sees ${namedRow(reads.lookedAt.design.model, row)}.`;
          return holeOf(reads, row, { code: 'opens-when-null', weight: 'leak', message: told, span });
        }
  return doubtOf('opens-when-null', span, `${message} Nobody lacks it among the rows that were looked at.`);
}
