import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { hasLeaks, waysTried } from '../core/audit/index.js';
import type { WallLine } from '../core/model/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type WeaverFault, withFault } from '../core/walls/faults.js';
import { SYSTEM } from '../core/walls/index.js';
import { type AuditState, auditWalls } from '../services/index.js';
import { AUDITED_LIBRARY } from '../tests/audited-library.js';
import { type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';

const NOW = '2031-04-12T09:00:00.000000Z';
const NONE: readonly WallLine[] = [];

/** A fault that lets the rows of some accesses through. */
function forgets(
  name: string,
  at: Parameters<NonNullable<WeaverFault['asked']>> extends infer P
    ? (...given: P extends unknown[] ? P : never) => boolean
    : never,
): WeaverFault {
  return { name, asked: (...given) => (at(...given) ? NONE : given[0]) };
}

/** The ways in which the weaver could go wrong: each has to be noticed. */
const FAULTS: readonly WeaverFault[] = [
  forgets('the rows that a query is from', (_, access, plan) => access === plan.root),
  forgets('what is behind a role to one row', (_, { over }) => over.kind === 'role' && over.role.knows !== 'many'),
  forgets('what is behind a role to many rows', (_, { over }) => over.kind === 'role' && over.role.knows === 'many'),
  forgets('rows that hold the key of another', (_, { over }) => over.kind === 'role' && over.role.way.kind === 'child'),
  forgets('what is linked by pairs', (_, { over }) => over.kind === 'role' && over.role.way.kind === 'pivot'),
  forgets('the pairs, where they are rows of an entity', (_, { over }) => over.kind === 'pairs'),
  forgets(
    'what a path leads past',
    (_, access, plan) => access !== plan.root && plan.loads.some(({ role }) => role.way.kind === 'path'),
  ),
  forgets(
    'the other of two rows',
    (_, { over }) => over.kind === 'role' && over.role.way.kind === 'child' && over.role.knows === 'at most one',
  ),
  forgets(
    'what one of several entities points at',
    (_, { over }) => over.kind === 'role' && over.role.way.kind === 'key' && over.role.way.mark !== null,
  ),
  forgets('rows of the same entity', (_, { over }) => over.kind === 'role' && over.role.entity === over.role.target),
  forgets('rows of which the key alone is looked at', (_, { reads }) => reads === 'key'),
  forgets('rows that are read whole, behind a role', (_, { reads, over }) => reads === 'row' && over.kind === 'role'),
  forgets('rows that have a condition of their own', (_, { conditions }) => conditions.length > 0),
  forgets('a count of rows', (_, access, plan) => access === plan.root && plan.cardinality === 'count'),
  forgets('whether there is a row', (_, access, plan) => access === plan.root && plan.cardinality === 'exists'),
  forgets('a page', (_, access, plan) => access === plan.root && plan.offset !== null),
  forgets('an ordered list', (_, access, plan) => access === plan.root && plan.order.length > 1),
  forgets('what is shown in groups', (_, access, plan) => access === plan.root && plan.output.kind === 'groups'),
  forgets('what is shown', (_, access, plan) => access === plan.root && plan.output.kind === 'shown'),
  forgets('a query with a parameter', (_, access, plan) => access === plan.root && plan.parameters.length > 0),
  forgets('one entity', (_, { entity }) => entity === 'Seat'),
  forgets('the kinds of an entity', (_, { entity }) => entity === 'Horn'),
  { name: 'what is asked of a kind alone', asked: (lines) => lines.filter(({ kinds }) => kinds === null) },
  { name: 'all lines but the first', asked: (lines) => lines.slice(0, 1) },
  { name: 'all lines but the last', asked: (lines) => lines.slice(-1) },
  { name: 'all walls but the first', standing: (standing) => standing.slice(0, 1) },
  {
    name: 'the last of the walls that keep rows from being read',
    standing: (standing) => standing.filter((wall) => wall !== standing.findLast(({ reads }) => reads)),
  },
  { name: 'all walls of a query that lifts one', standing: (standing, _, plan) => (plan.lifts.length > 0 ? [] : standing) },
  {
    name: 'that an actor is free of one wall alone',
    actor: (actor) => (actor === SYSTEM || actor.walls.length === 3 ? actor : { ...actor, walls: [] }),
  },
  { name: 'that nobody is not the system', actor: (actor) => (actor !== SYSTEM && actor.me === null ? SYSTEM : actor) },
  { name: 'that the row behind a role is hidden', hidesNothing: true },
];

/** Commands are worked out beside the engine: where that is a process of its own, no fault reaches them. */
const FAULTS_OF_WRITING: readonly WeaverFault[] = [
  forgets('rows that are to be written', (_, access, plan, wanted) => wanted === 'write' && access === plan.root),
  { name: 'walls on what is written alone', standing: (standing) => standing.filter(({ reads }) => reads) },
  {
    name: 'what is asked of rows to be written, but for the first line',
    asked: (lines, access, plan, wanted) => (wanted === 'write' && access === plan.root ? lines.slice(0, 1) : lines),
  },
];

let engines: Engines;
let tree: MadeTree;
let onServer: MadeTree;
beforeAll(async () => {
  engines = openEngines(inject('servers'));
  tree = await makeOn(engines, 'sqlite', AUDITED_LIBRARY);
  onServer = await makeOn(engines, 'postgres', AUDITED_LIBRARY);
}, 60_000);
afterAll(async () => {
  await tree.database.remove();
  await onServer.database.remove();
  await engines.close();
});

/** Audits the library; up to its first leak, where one is looked for. */
async function audited({ design, database }: MadeTree, untilLeak: boolean): Promise<AuditState> {
  const lookedAt = { design, engine: database.engine, sampleKeys: namedKeys(design.model, NOW), madeHere: true };
  const stop = new AbortController();
  return auditWalls(
    lookedAt,
    { engine: database.engine, schemas: null },
    {
      now: NOW,
      signal: stop.signal,
      step: (state) => {
        if (untilLeak && hasLeaks(state)) stop.abort();
      },
    },
  );
}

test('nothing gets round the walls of a library with every form of relation, and nothing of it is left out', async () => {
  const state = await audited(tree, false);
  expect(state.leaks).toEqual([]);
  expect(state.holes).toEqual([]);
  // What not even the system could do says nothing of walls, and is told as not tried.
  expect(state.untried.filter(({ why }) => !why.startsWith('Not even the system'))).toEqual([]);
  expect(state.done).toBe(state.all);
  expect(waysTried(state).tried).toBeGreaterThan(900);
}, 300_000);

test.each(FAULTS)(
  'the audit notices a weaver that forgets $name',
  async (fault) => {
    const state = await withFault(fault, () => audited(tree, true));
    expect(hasLeaks(state), fault.name).toBe(true);
    const [leak] = state.leaks;
    expect(leak?.told).toContain('all that they may be told');
  },
  300_000,
);

test.each(FAULTS_OF_WRITING)(
  'the audit notices a weaver that forgets $name',
  async (fault) => {
    const state = await withFault(fault, () => audited(onServer, true));
    expect(hasLeaks(state), fault.name).toBe(true);
  },
  300_000,
);
