import { askedOf, columnsInTables, reachedWhere } from '../core/audit/index.js';
import type { Design } from '../core/design/index.js';
import { prepare } from '../core/load/index.js';
import { type Expression, type Query, queryOf, someExpression } from '../core/model/index.js';
import { planQuery } from '../core/plan/index.js';
import type { Select } from '../core/sql/index.js';
import {
  type AskedAsSql,
  policiesOfWalls,
  type ScriptOfWalls,
  viewsOfWalls,
  type WallAsSql,
  type WallsAsSql,
} from '../core/views/index.js';
import { SYSTEM, weave } from '../core/walls/index.js';

const NOWHERE = { start: 0, end: 0 };

/** The walls of a text as views or policies of its database; or why they cannot be. */
export function wallsAsScript(design: Design, how: 'views' | 'policies'): ScriptOfWalls | { readonly problem: string } {
  const { model, schema, dialect } = design;
  if (model.walls.size === 0) return { problem: 'The text has no wall.' };
  const { policies } = dialect;
  if (how === 'policies' && policies === null)
    return { problem: `${dialect.title} keeps no rows from anybody by policies. Print the walls as views.` };
  const walls = wallsAsSql(design);
  if ('problem' in walls) return walls;
  return how === 'policies' && policies !== null
    ? policiesOfWalls(model, dialect, policies, walls)
    : viewsOfWalls(model, dialect, columnsInTables(model, schema), walls);
}

/** Each wall of a text as SQL, in which what it asks of whoever is at work is left open. */
function wallsAsSql({ model, dialect }: Design): WallsAsSql | { readonly problem: string } {
  const asked = new Map<string, AskedAsSql>();
  const { values } = askedOf(model);
  let timed: string | null = null;
  /** A query of the system, as SQL; what it asks of whoever is at work is noted. */
  const asSql = (query: Query, output: 'rows' | 'keys', by: string): Select => {
    const woven = weave(planQuery(model, query, { output }), SYSTEM);
    const ready = prepare(
      woven,
      { model, dialect, madeHere: false },
      {
        parameters: {},
        now: '2000-01-01T00:00:00.000000Z',
        sampleKeys: {},
        me: 'nobody',
      },
    );
    if (!ready.ok) throw new Error(ready.problems.join(' '));
    for (const { name, from } of ready.prepared.compiled.bindings) {
      if (from.kind === 'clock') timed = by;
      if (from.kind !== 'me' || asked.has(name)) continue;
      asked.set(name, { kind: 'key' });
      const value = values.get(from.name);
      if (from.name !== 'me' && value !== undefined && model.actor !== null)
        asked.set(name, { kind: 'value', select: asSql(shown(model.actor, value), 'rows', by) });
    }
    return { ...ready.prepared.compiled.select, orderBy: [] };
  };
  const walls = new Map<string, WallAsSql[]>();
  for (const wall of model.walls.values()) {
    const { actor } = model;
    const free = actor === null ? [] : wall.unless.map((one) => asSql(queryOf(actor, { where: [one] }), 'keys', wall.name));
    for (const entity of wall.conditions.keys()) {
      const where = reachedWhere({ walls: [wall], isNobody: false }, entity, 'change');
      if (where === null) continue;
      const asksWho = someExpression(where, ({ kind }) => kind === 'me');
      const keys = asSql(queryOf(entity, { where: [where] }), 'keys', wall.name);
      walls.set(entity, [...(walls.get(entity) ?? []), { reads: wall.reads, keys, asksWho, free }]);
    }
  }
  if (timed !== null)
    return { problem: `Wall ${String(timed)} asks what day it is, which the database would ask of its own clock.` };
  return { walls, asked };
}

/** A value over the rows of an entity, and nothing else. */
function shown(entity: string, expression: Expression): Query {
  return queryOf(entity, { show: [{ name: 'value', expression, span: NOWHERE }] });
}
