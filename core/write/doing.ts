import type { Dialect } from '../dialects/index.js';
import { type AnswerRow, type Computation, loadRows, prepare } from '../load/index.js';
import { type ActorName, type Expression, entityOf, lineage, type Model, type Query, queryOf } from '../model/index.js';
import { type PlanOptions, planQuery } from '../plan/index.js';
import { type MadeTable, placeRows } from '../samples/index.js';
import { type Change, type Insert, named } from '../sql/index.js';
import type { BoundParameter, BoundValue, Wire } from '../values/index.js';
import { type Actor, askedOfActor, nobody, SYSTEM, type WovenFor, weave } from '../walls/index.js';
import { RowsAhead } from './ahead.js';
import type { Journal } from './journal.js';
import { keyIn, type RowAt } from './row-at.js';
import type { CommandWork, EachResult, WriteResult } from './steps.js';
import type { CommandLogEntry, RefusedAbout, RefusedFor, WrittenCell } from './told.js';
import { WrittenRows } from './written-rows.js';

/** What commands are given beside the model. */
export interface CommandInputs {
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  /** The keys of the rows that the text names, by `Entity(row)`. */
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  /** The database was made here, so its constraints keep types and keys. */
  readonly madeHere: boolean;
  /** Whether what they do is to stay; else it is taken back when it has been told. */
  readonly keep: boolean;
  /** What keys for rows that are told apart by a uuid begin with, 20 hexadecimal digits; the same stem gives the same keys. */
  readonly uuidStem: string;
}

export const NO_ROW = 'me is asked for, and the system is nobody’s row. Say on whose behalf it is done, as in “as Player(3)”.';

/** How a question is asked. */
export interface AskOptions extends PlanOptions {
  /** On whose behalf; left out, on that of whoever is at work. */
  readonly as?: Actor;
  readonly wanted?: WovenFor;
}

/** So many rows are read for one command at most. */
export const MOST_ROWS = 100_000;
/** How a row is called in the query for one by its key. */
const BY_KEY = 'key';
const NOWHERE = { start: 0, end: 0 };
/** So many statements are told one by one. */
const MOST_LOGGED = 5000;

/** Commands are refused; everything is taken back. */
export class Refused extends Error {
  constructor(readonly why: RefusedFor) {
    super(why.kind);
  }
}

/** Refuses commands, in words for a person. */
export function refuse(message: string, about: RefusedAbout = 'value'): never {
  throw new Refused({ kind: 'words', about, message });
}

/** That a command means a row which is not there, or is out of reach: the two are told in the same words. */
export function noSuchRow(what: string, entity: string): string {
  return `${what}: there is no such row of ${entity}. Look for it with “from ${entity}”, or make it first.`;
}

/** The state of commands while they are carried out. */
export class Doing {
  /** The first of the statements. */
  readonly log: CommandLogEntry[] = [];
  /** Rows that the commands name by their keys, as far as they were looked for. */
  readonly ahead = new RowsAhead();
  /** How many statements have changed rows so far. */
  changes = 0;
  /** The command that is being carried out, counted from 0. */
  line = 0;
  /** On whose behalf it is. */
  actor: Actor = SYSTEM;
  /** The rows that were written, which those on whose behalf it was done have to reach afterwards. */
  readonly written = new WrittenRows();
  private readonly keys: Record<string, Wire>;
  private uuidsTaken = 0;
  private readonly inserts = new Map<string, string>();
  private readonly plain = new Map<string, { readonly names: readonly string[]; readonly plain: string }>();
  private readonly layouts = new Map<string, readonly MadeTable[]>();
  /** The query for a row by its key, of each entity: the same one is planned and printed once. */
  private readonly byKey = new Map<string, Query>();
  /** By how many rows the commands' own statements changed each table, and whether one put in or changed any. */
  private readonly tables = new Map<string, { net: number; written: boolean }>();

  constructor(
    readonly dialect: Dialect,
    readonly model: Model,
    readonly inputs: CommandInputs,
    /** Keeps how rows were; null where nothing of it is to be put back. */
    readonly journal: Journal | null = null,
    /** So many statements are told one by one. */
    private readonly mostLogged = MOST_LOGGED,
  ) {
    this.keys = { ...inputs.sampleKeys };
  }

  /** Gives a row a name for the lines after it: as a row of its entity, and of every base of that. */
  name(name: string, { entity, key }: RowAt): void {
    for (const one of lineage(this.model, entity)) this.keys[`${one.name}(${name})`] = key;
  }

  /** By how many rows a table has grown by the commands' own statements. */
  netRows(table: string): number {
    return this.tables.get(table)?.net ?? 0;
  }

  /** Whether a command has put rows into a table, or changed some. */
  hasWritten(table: string): boolean {
    return this.tables.get(table)?.written ?? false;
  }

  /** A key for a row that is told apart by a uuid. */
  nextUuid(): string {
    return uuidBehind(this.inputs.uuidStem, this.uuidsTaken++);
  }

  /**
   * Has the commands that come next done on behalf of somebody: their row is looked up outside of all walls, as it then stands.
   *
   * @param run what those commands ask for
   */
  *workAs(named: ActorName, run: readonly Expression[]): CommandWork<void> {
    this.actor =
      named.kind === 'system' ? SYSTEM : named.kind === 'nobody' ? nobody(this.model) : yield* this.actorOf(named.row, run);
  }

  private *actorOf(row: Expression, run: readonly Expression[]): CommandWork<Actor> {
    const entity = row.type.kind === 'row' ? row.type.entity : (this.model.actor ?? '');
    const key = this.keyOf(row);
    const asked = askedOfActor(this.model, run);
    const own: Expression = { kind: 'value', value: key, type: { kind: 'row', entity }, span: row.span };
    const show = asked.columns.map((expression, at) => ({ name: `value_${at}`, expression, span: row.span }));
    const whether = {
      name: 'there',
      expression: { kind: 'value', value: true, type: { kind: 'boolean' }, span: row.span } as const,
      span: row.span,
    };
    const query = queryOf(entity, { where: [isRow(entity, own)], show: [whether, ...show] });
    const [found] = yield* this.ask(query, { titled: false, as: SYSTEM });
    if (found === undefined) return refuse(`There is no such ${entity}: nobody can work as that row.`);
    return asked.actor(show.map(({ name }) => (found[name] ?? null) as Wire));
  }

  /** The rows of a query, whole, with their keys, as whoever is at work sees them; what is bound as `keys` chooses among them. */
  *ask(
    query: Query,
    { as = this.actor, wanted = 'read', ...options }: AskOptions = {},
    keys: BoundParameter | null = null,
    sampleKeys: Readonly<Record<string, Wire>> = this.keys,
  ): CommandWork<readonly AnswerRow[]> {
    const plan = planQuery(this.model, query, { titled: true, ...options });
    const database = { model: this.model, dialect: this.dialect, madeHere: this.inputs.madeHere };
    const me = as === SYSTEM ? null : (as.me ?? 'nobody');
    const ready = prepare(weave(plan, as, wanted), database, { parameters: {}, now: this.inputs.now, sampleKeys, me });
    if (!ready.ok) return refuse(ready.problems.join(' '));
    const { prepared } = ready;
    const bound = keys === null ? prepared : { ...prepared, parameters: { ...prepared.parameters, keys } };
    const answer = yield* asked(loadRows(this.dialect, { prepared: bound, rowLimit: MOST_ROWS }));
    for (const entry of answer.log) this.note({ kind: 'read', line: this.line, ...entry });
    if (answer.cuts.length > 0)
      return refuse(
        `These are more than ${MOST_ROWS.toLocaleString('en')} rows, which is too many for one command. Do some of them first.`,
      );
    return answer.rows;
  }

  /** A change as it is sent; those of one row after the other are the same, and are printed once. */
  private printed(change: Change): string {
    if (change.kind !== 'insert' || change.rows.length !== 1) return this.dialect.printChange(change);
    const shape = [change.into.schema, change.into.name, ...change.columns, 'returning', ...(change.returning ?? [])].join('\n');
    const known = this.inserts.get(shape) ?? this.dialect.printChange(change);
    this.inserts.set(shape, known);
    return known;
  }

  private note(entry: CommandLogEntry): void {
    if (this.log.length < this.mostLogged) this.log.push(entry);
  }

  /** A change with a name for each of its values; those that are sent as the same are the same. */
  private namedBy(change: Change, sql: string, count: number): { readonly names: readonly string[]; readonly plain: string } {
    const known = this.plain.get(sql);
    if (known !== undefined) return known;
    const names = namesIn(change, count);
    const told = { names, plain: this.dialect.printChange(named(change, names)) };
    this.plain.set(sql, told);
    return told;
  }

  /** The same of one row alone, which an expression names by its key or its name. */
  *askOf(row: Expression, query: Query): CommandWork<readonly AnswerRow[]> {
    const key = this.keyOf(row);
    const { entity, where, loads } = query;
    if (where.length === 0 && loads.length === 0) {
      const known = this.byKey.get(entity) ?? queryOf(entity, { where: [isRow(entity, this.rowNamed(entity))] });
      this.byKey.set(entity, known);
      return yield* this.ask(known, {}, null, { [`${entity}(${BY_KEY})`]: key });
    }
    const named: Expression = { kind: 'value', value: key, type: { kind: 'row', entity }, span: query.span };
    return yield* this.ask({ ...query, where: [isRow(entity, named), ...where] });
  }

  private rowNamed(entity: string): Expression {
    return { kind: 'sample row', entity, row: BY_KEY, type: { kind: 'row', entity }, span: NOWHERE };
  }

  /** The key that an expression names a row by. */
  private keyOf(row: Expression): Wire {
    if (row.kind === 'value') return row.value;
    if (row.kind === 'me') return this.actor === SYSTEM ? refuse(NO_ROW) : (this.actor.me?.get(row.name) ?? null);
    const name = row.kind === 'sample row' ? `${row.entity}(${row.row})` : '';
    const key = Object.hasOwn(this.keys, name) ? this.keys[name] : undefined;
    return key ?? refuse(`There is no row ${name} in this database. Give its key, as in ${name.replace(/\(.*/, '')}(1).`, 'row');
  }

  /** Rows by their keys, by the text of each key. */
  *rowsByKey(
    entity: string,
    keys: readonly Wire[],
    query: Partial<Query> = {},
    options: AskOptions = {},
  ): CommandWork<ReadonlyMap<string, AnswerRow>> {
    if (keys.length === 0) return new Map();
    const { key } = entityOf(this.model, entity);
    const whole = queryOf(entity, query);
    const bound = this.dialect.values.bindKeys(key.type, keys);
    const rows = yield* this.ask(whole, { byKeys: true, ...options }, bound);
    return new Map(rows.map((row) => [String(keyIn(this.model, entity, row)), row]));
  }

  /** Puts one row after the other in by the same statement, and tells which were refused; nothing of it is logged. */
  *attemptEach(insert: Insert, values: readonly (readonly BoundValue[])[], sql: string): CommandWork<EachResult> {
    const gives = (insert.returning?.length ?? 0) > 0 ? 'rows' : 'count';
    const answer = yield { kind: 'attempt each', sql, values, gives };
    if (answer.kind !== 'written each') throw new Error('many changes were answered as something else');
    const made = values.length - answer.result.refusals.size;
    if (made > 0) this.noteRows(insert, made);
    return answer.result;
  }

  private noteRows(change: Change, rows: number): void {
    this.changes += 1;
    const table = this.tables.get(tableOf(change)) ?? { net: 0, written: false };
    table.net += change.kind === 'insert' ? rows : change.kind === 'delete' ? -rows : 0;
    table.written ||= change.kind !== 'delete';
    this.tables.set(tableOf(change), table);
  }

  /** The tables that hold rows of an entity, each with its columns: a base's before those of its kinds. */
  layoutOf(entity: string): readonly MadeTable[] {
    const known = this.layouts.get(entity);
    if (known !== undefined) return known;
    const order = lineage(this.model, entity).map(({ name }) => name);
    const placed = placeRows(this.model, new Map([[entity, []]]));
    const layout = placed.toSorted((one, other) => order.indexOf(one.owner) - order.indexOf(other.owner));
    this.layouts.set(entity, layout);
    return layout;
  }

  /** Carries out a change, with a value for each of its placeholders; where it is refused, so are all commands. */
  *change(change: Change, values: readonly BoundValue[], cells: readonly WrittenCell[]): CommandWork<WriteResult> {
    const result = yield* this.attempt(change, values);
    const { refusal } = result;
    if (refusal === null) return result;
    throw new Refused({ kind: 'constraint', broken: refusal, table: tableOf(change), cells });
  }

  /** The same, and what came of it, also where it is refused: then nothing of it stands. @param sql the change, where it is printed already */
  *attempt(change: Change, values: readonly BoundValue[], sql = this.printed(change)): CommandWork<WriteResult> {
    if (this.journal !== null) yield* this.journal.before(change, values);
    const gives = change.kind === 'insert' && (change.returning?.length ?? 0) > 0 ? 'rows' : 'count';
    const answer = yield { kind: 'attempt', sql, values, gives };
    if (answer.kind !== 'written') throw new Error('a change was answered as a question');
    const { result, milliseconds } = answer;
    const rows = change.kind === 'insert' ? change.rows.length : result.changed;
    if (result.refusal === null) {
      if (change.kind === 'delete') this.ahead.forget();
      if (this.journal !== null) yield* this.journal.after(change, values, result);
      this.noteRows(change, rows);
      if (this.log.length >= this.mostLogged) return result;
      const { names, plain } = this.namedBy(change, sql, values.length);
      const told = values.map((value, at) => ({ name: names[at] ?? '', shown: shown(value) }));
      this.note({ kind: 'write', line: this.line, sql, plain, values: told, rows, milliseconds });
    }
    return result;
  }
}

/** How many hexadecimal digits a stem of uuids has. */
const STEM_DIGITS = 20;

/**
 * A uuid of version 8 (RFC 9562, 5.8): a stem that is anybody's own, and a number behind it.
 *
 * @param stem 20 hexadecimal digits
 */
function uuidBehind(stem: string, number: number): string {
  const digits = stem.padEnd(STEM_DIGITS, '0');
  const node = number.toString(16).padStart(12, '0');
  return `${digits.slice(0, 8)}-${digits.slice(8, 12)}-8${digits.slice(13, 16)}-a${digits.slice(17, 20)}-${node}`;
}

function tableOf(change: Change): string {
  return (change.kind === 'insert' ? change.into : change.kind === 'update' ? change.table : change.from).name;
}

/** The condition that a row is the one which an expression names. */
function isRow(entity: string, row: Expression): Expression {
  const own: Expression = { kind: 'role', hops: [], type: { kind: 'row', entity }, span: NOWHERE };
  return { kind: 'binary', operator: '=', left: own, right: row, type: { kind: 'boolean' }, span: NOWHERE };
}

/** Names for the values of a change: of the columns that they are put into; those behind them choose its rows. */
function namesIn(change: Change, count: number): readonly string[] {
  const columns =
    change.kind === 'insert' ? change.columns : change.kind === 'update' ? change.set.map(({ column }) => column) : [];
  const keys = Array.from({ length: Math.max(0, count - columns.length) }, (_, at) => (at === 0 ? 'key' : `key_${at + 1}`));
  const taken = new Set<string>();
  return [...columns, ...keys].map((wish) => {
    const word = wish.replace(/\W/g, '_');
    let name = word;
    for (let number = 2; taken.has(name); number++) name = `${word}_${number}`;
    taken.add(name);
    return name;
  });
}

/** A value as the log shows it. */
function shown(value: BoundValue): string {
  if (value === null) return 'null';
  if (value instanceof Uint8Array) return `${value.length} bytes`;
  return typeof value === 'string' ? `'${value}'` : String(value);
}

/** A computation over rows, within the transaction. */
export function* asked<Result>(computation: Computation<Result>): CommandWork<Result> {
  let turn = computation.next();
  while (turn.done !== true) {
    const answer = yield { kind: 'ask', statement: turn.value };
    if (answer.kind !== 'asked') throw new Error('a question was answered as a change');
    turn = computation.next(answer.result);
  }
  return turn.value;
}
