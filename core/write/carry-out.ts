import type { DeleteGraph } from '../cascades/index.js';
import type { Dialect } from '../dialects/index.js';
import type { AnswerRow } from '../load/index.js';
import { type ActorName, type Command, holdingsOf, loadOf, type Model, type NamedCommand, queryOf } from '../model/index.js';
import type { Wire } from '../values/index.js';
import { SYSTEM } from '../walls/index.js';
import { alongWith, countIn, reachedFrom } from './along.js';
import { Behalf } from './behalf.js';
import { refuseReachingBehind } from './behind-walls.js';
import { computedFor } from './computed.js';
import { type CommandInputs, Doing, noSuchRow, Refused, refuse } from './doing.js';
import { Filling, fillChanged, fillGiven, rulesOf } from './fill.js';
import { type FoundRow, findOne, findRows } from './find-rows.js';
import { Journal, type KeptTables } from './journal.js';
import { linkRow, unlinkRow } from './link.js';
import { makeRow } from './make-row.js';
import { keepPins } from './pins.js';
import { inReach, keepInReach, keysOf, noteWritten } from './reach.js';
import { keyIn, kindIn, type RowAt } from './row-at.js';
import { RulesOfOthers, touchesOf } from './rules-of-others.js';
import type { CommandWork } from './steps.js';
import { deleteRows, updateRows } from './stored-row.js';
import type { Carried, CarriedLine, RowChange, WrittenCell, WrittenRow } from './told.js';

/** So many rows are told of as they were and as they are. */
const MOST_TOLD = 1000;

/**
 * Carries out commands one after the other, all within one transaction, and tells what came of them. Where one is refused, whoever
 * runs the transaction takes all of it back.
 */
export function* carryOut(
  dialect: Dialect,
  {
    model,
    commands,
    inputs,
    keeps = null,
    as = { kind: 'system' },
    graph = null,
  }: {
    readonly model: Model;
    readonly commands: readonly NamedCommand[];
    readonly inputs: CommandInputs;
    /** What it takes to keep how rows were, so that they can be put back; left out: they are not kept. */
    readonly keeps?: KeptTables | null;
    /** On whose behalf commands are done of which no line says it; left out, the system’s. */
    readonly as?: ActorName;
    /** What the database does when rows are deleted; not asked for where the system does all. */
    readonly graph?: DeleteGraph | null;
  },
): CommandWork<Carried> {
  const journal = keeps === null ? null : new Journal(dialect, keeps);
  const doing = new Doing(dialect, model, inputs, journal);
  const behalf = new Behalf(doing, commands, as);
  const lines: CarriedLine[] = [];
  const deleted = commands.flatMap(({ command }) => (command.kind === 'delete' ? [command.rows.entity] : []));
  const watched = reachedFrom(model, deleted);
  try {
    // What is found ahead is found past all walls.
    if (behalf.isSystem) yield* doing.ahead.look(doing, commands);
    const others = new RulesOfOthers(doing, touchesOf(commands));
    yield* others.look();
    const before = yield* countIn(doing, watched);
    for (const line of commands.keys()) yield* carryOutLine({ doing, behalf, graph, commands, lines }, line);
    yield* keepInReach(doing);
    yield* keepRules(doing, lines);
    yield* others.keep();
    const went = alongWith(doing, watched, before, yield* countIn(doing, watched));
    // Pairs that went may have been of rows that are hidden: how many those were is not told.
    const along = behalf.isSystem ? went : went.filter(({ of }) => !pairsWalled(model, of));
    const undo = journal === null ? null : yield* journal.finish();
    return { lines: yield* withRowsAfter(doing, behalf, lines), along, log: doing.log, undo, refusal: null };
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    return { lines: [], along: [], log: doing.log, undo: null, refusal: { line: doing.line, why: error.why } };
  }
}

/**
 * Carries out the command of a line, where it is not done yet. One that is refused since the row which it points at comes in a line
 * behind it is carried out after that: of two rows that have to point at each other, one key alone may be looked at in the end.
 */
function* carryOutLine(
  all: AllCommands,
  line: number,
  /** The lines that wait for this one. */
  waiting: readonly number[] = [],
): CommandWork<void> {
  const { doing, behalf, graph, commands, lines } = all;
  const named = commands[line];
  if (named === undefined || lines[line] !== undefined) return;
  const { name, command } = named;
  doing.line = line;
  yield* behalf.takeUp(line);
  const before = doing.changes;
  let rows: readonly WrittenRow[];
  try {
    rows = yield* carryOutOne(doing, command, graph);
  } catch (error) {
    const toCome = doing.ahead.linesToCome(command, line).filter((one) => !waiting.includes(one));
    const byKey = error instanceof Refused && error.why.kind === 'constraint' && error.why.broken.kind === 'key';
    if (!byKey || toCome.length === 0 || doing.changes > before) throw error;
    for (const one of toCome) yield* carryOutLine(all, one, [...waiting, line]);
    doing.line = line;
    yield* behalf.takeUp(line);
    rows = yield* carryOutOne(doing, command, graph);
  }
  const [first] = rows;
  if (name !== null && first !== undefined) doing.name(name, first);
  lines[line] = { name, rows };
  doing.ahead.noteDone(line);
}

function* carryOutOne(doing: Doing, command: Command, graph: DeleteGraph | null): CommandWork<readonly WrittenRow[]> {
  switch (command.kind) {
    case 'create':
      return yield* makeRow(doing, command.row, command.through);
    case 'find or create':
    case 'create or update':
      return yield* findOrMake(doing, command);
    case 'update': {
      const rows = yield* rowsInReach(doing, yield* findRows(doing, command.rows));
      if (rows.length === 0 && command.rows.one) refuse(noSuchRow('Updating', command.rows.entity), 'row');
      return yield* update(doing, command.rows.entity, rows, command.values);
    }
    case 'link':
    case 'unlink': {
      const owner = yield* findOne(doing, command.owner, command.kind === 'link' ? 'Linking' : 'Unlinking');
      const done: WrittenRow[] = [];
      for (const { role, rows } of command.others) {
        const others = yield* findRows(doing, rows);
        if (others.length === 0) yield* findOne(doing, rows, `${owner.entity}.${role.name}`);
        for (const other of others)
          done.push(
            command.kind === 'link'
              ? yield* linkRow(doing, owner, role, other, command.fields)
              : yield* unlinkRow(doing, owner, role, other, command.pairs),
          );
      }
      return done;
    }
    case 'delete': {
      const rows = yield* rowsInReach(doing, yield* findRows(doing, command.rows));
      if (rows.length === 0 && command.rows.one) refuse(noSuchRow('Deleting', command.rows.entity), 'row');
      const emptied = yield* refuseReachingBehind(doing, graph, rows);
      for (const [entity, own] of byEntity(rows))
        yield* deleteRows(
          doing,
          yield* inReach(
            doing,
            entity,
            own.map(({ key }) => key),
          ),
        );
      for (const row of emptied) noteWritten(doing, row);
      return rows.map((row) => changed('deleted', row, []));
    }
  }
}

/** Whether pairs of a relation, which are rows of no entity, link rows that walls may hide. */
function pairsWalled(model: Model, name: string): boolean {
  const relation = model.relations.get(name);
  if (relation === undefined || model.entities.has(name)) return false;
  const walled = new Set(Array.from(model.walls.values()).flatMap(({ conditions }) => Array.from(conditions.keys())));
  return holdingsOf(relation).keys.some(({ target }) => walled.has(target));
}

/** What it takes to carry commands out. */
interface AllCommands {
  readonly doing: Doing;
  readonly behalf: Behalf;
  readonly graph: DeleteGraph | null;
  readonly commands: readonly NamedCommand[];
  /** What came of those that are done. */
  readonly lines: CarriedLine[];
}

/** The rows among some that whoever is at work may write, in their order. */
function* rowsInReach(doing: Doing, rows: readonly FoundRow[]): CommandWork<readonly FoundRow[]> {
  if (doing.actor === SYSTEM) return rows;
  const there = new Set<string>();
  for (const [entity, own] of byEntity(rows)) {
    const reached = yield* inReach(
      doing,
      entity,
      own.map(({ key }) => key),
    );
    for (const key of keysOf(reached)) there.add(`${entity} ${String(key)}`);
  }
  return rows.filter(({ entity, key }) => there.has(`${entity} ${String(key)}`));
}

function changed(change: RowChange, { entity, key, row }: FoundRow, cells: readonly WrittenCell[]): WrittenRow {
  return { change, entity, key, link: null, cells, before: row, after: null };
}

function* update(
  doing: Doing,
  entity: string,
  rows: readonly FoundRow[],
  values: Extract<Command, { kind: 'update' }>['values'],
): CommandWork<readonly WrittenRow[]> {
  const done: WrittenRow[] = [];
  // Rows of one entity that get the same values are written by one statement.
  const together = new Map<string, { readonly entity: string; readonly filling: Filling; readonly keys: Wire[] }>();
  const computed = yield* computedFor(doing, entity, rows, values);
  const ofEachRow = computed.size > 0;
  const filled = new Map<string, Filling>();
  for (const row of rows) {
    const known = ofEachRow ? undefined : filled.get(row.entity);
    const filling = known ?? new Filling(row.entity);
    if (known === undefined) {
      yield* fillGiven(doing, filling, values, computed.get(String(row.key)) ?? null);
      keepPins(doing, row.entity, filling.cells);
      if (filling.told.length > 0) fillChanged(doing, filling);
      filled.set(row.entity, filling);
    }
    const name = JSON.stringify([row.entity, Array.from(filling.cells.values(), ({ value }) => value)]);
    const group = together.get(name) ?? { entity: row.entity, filling, keys: [] };
    group.keys.push(row.key);
    together.set(name, group);
    done.push(changed('updated', row, filling.told));
  }
  for (const { entity, filling, keys } of together.values())
    yield* updateRows(doing, yield* inReach(doing, entity, keys), Array.from(filling.cells.values()), filling.told);
  return done;
}

type FindOrMake = Extract<Command, { kind: 'find or create' | 'create or update' }>;

/**
 * The row that matches, or one that is made. Another may make it meanwhile: then a unique refuses ours, nothing of it is left, and
 * the other's is found.
 */
function* findOrMake(doing: Doing, command: FindOrMake): CommandWork<readonly WrittenRow[]> {
  const found = yield* matching(doing, command);
  if (found !== null) return yield* foundOrUpdated(doing, command, found);
  const row = { ...command.row, values: [...command.match, ...command.row.values] };
  const before = doing.changes;
  try {
    return yield* makeRow(doing, row, command.through);
  } catch (error) {
    // What has been put in already would stay: then the refusal is another's than that of the row which is there.
    if (!(error instanceof Refused) || error.why.kind !== 'constraint' || doing.changes > before) throw error;
    const theirs = yield* matching(doing, command);
    if (theirs === null) throw error;
    return yield* foundOrUpdated(doing, command, theirs);
  }
}

function* foundOrUpdated(doing: Doing, command: FindOrMake, found: FoundRow): CommandWork<readonly WrittenRow[]> {
  if (command.kind === 'find or create') return [changed('found', found, [])];
  // What is set once was set when the row was made.
  const values = command.row.values.filter((value) => value.kind === 'role' || !(value.field.fixed || value.field.key));
  const reached = yield* rowsInReach(doing, [found]);
  if (reached.length === 0) refuse(noSuchRow('Updating', command.row.entity), 'row');
  return yield* update(doing, command.row.entity, reached, values);
}

function* matching(doing: Doing, { row, through, condition }: FindOrMake): CommandWork<FoundRow | null> {
  const found: FoundRow[] = [];
  if (through === null) {
    const rows = yield* doing.ask(queryOf(row.entity, { where: [condition] }));
    found.push(...rows.map((one) => rowOf(doing, row.entity, one)));
  } else {
    const { owner, role } = through;
    const walked = {
      ...owner,
      query: withLoad(owner.query, owner.path, role, condition),
      path: [...owner.path, role.name],
      entity: row.entity,
    };
    found.push(...(yield* findRows(doing, walked)));
  }
  const [only, ...more] = found;
  if (more.length > 0)
    return refuse(`${found.length} rows of ${row.entity} match, and one is meant. Say more of it in the bracket.`);
  return only ?? null;
}

function rowOf({ model }: Doing, entity: string, row: AnswerRow): FoundRow {
  const kind = kindIn(entity, row);
  return { entity: kind, key: keyIn(model, kind, row), row };
}

type Walked = Extract<Command, { kind: 'delete' }>['rows']['query'];

/** A query of owners, with the rows behind a role of them for which a condition holds, loaded at the end of its path. */
function withLoad(
  query: Walked,
  path: readonly string[],
  role: Parameters<typeof loadOf>[0],
  where: FindOrMake['condition'],
): Walked {
  const load = loadOf(role, { where });
  const below = (loads: Walked['loads'], left: readonly string[]): Walked['loads'] =>
    left.length === 0 ? [load] : loads.map((one) => ({ ...one, loads: below(one.loads, left.slice(1)) }));
  return { ...query, loads: below(query.loads, path) };
}

function byEntity<Row extends RowAt>(rows: readonly Row[]): ReadonlyMap<string, readonly Row[]> {
  const groups = new Map<string, Row[]>();
  for (const row of rows) {
    const group = groups.get(row.entity);
    if (group === undefined) groups.set(row.entity, [row]);
    else group.push(row);
  }
  return groups;
}

function nameOf({ entity, key }: RowAt): string {
  return `${entity} ${String(key)}`;
}

/** The rows that were made or changed, each once. */
function written(lines: readonly CarriedLine[]): readonly RowAt[] {
  const rows = new Map<string, RowAt>();
  for (const line of lines)
    for (const { change, entity, key } of line.rows) {
      const name = nameOf({ entity, key });
      if (change === 'deleted') rows.delete(name);
      else if (change === 'created' || change === 'updated' || change === 'linked' || change === 'unlinked')
        rows.set(name, { entity, key });
    }
  return Array.from(rows.values());
}

/** Refuses what breaks a rule of a row that was written: no constraint holds those. A rule that is unknown is not broken. */
function* keepRules(doing: Doing, lines: readonly CarriedLine[]): CommandWork<void> {
  for (const [entity, rows] of byEntity(written(lines)))
    for (const { owner, rule } of rulesOf(doing.model, entity)) {
      const { expression, span } = rule;
      const where = [{ kind: 'not', operand: expression, type: { kind: 'boolean' }, span } as const];
      const keys = rows.map(({ key }) => key);
      const broken = yield* doing.rowsByKey(entity, keys, { where }, { as: SYSTEM });
      const [first] = broken.values();
      if (first === undefined) continue;
      const key = keyIn(doing.model, entity, first);
      doing.line = lines.findIndex((line) => line.rows.some((row) => row.entity === entity && row.key === key));
      throw new Refused({ kind: 'rule', entity: owner, rule: rule.name, message: rule.message, key });
    }
}

/** The same lines, with the rows as they are after all of them. */
function* withRowsAfter(doing: Doing, behalf: Behalf, lines: readonly CarriedLine[]): CommandWork<readonly CarriedLine[]> {
  const after = new Map<WrittenRow, AnswerRow>();
  const told = new Set(written(lines).slice(0, MOST_TOLD).map(nameOf));
  for (const [actor, own] of behalf.byActor(lines)) {
    const rows = own.flatMap((line) =>
      line.rows.filter((row) => row.link === null && row.change !== 'deleted' && told.has(nameOf(row))),
    );
    for (const [entity, some] of byEntity(rows)) {
      const keys = Array.from(new Set(some.map(({ key }) => key)));
      const found = yield* doing.rowsByKey(entity, keys, {}, { as: actor });
      for (const row of some) {
        const now = found.get(String(row.key));
        if (now !== undefined) after.set(row, now);
      }
    }
  }
  return lines.map((line) => ({ ...line, rows: line.rows.map((row) => ({ ...row, after: after.get(row) ?? null })) }));
}
