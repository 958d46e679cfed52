import type { Dialect } from '../dialects/index.js';
import { type ActorName, type Entity, type Expression, entityOf, type Model, queryOf } from '../model/index.js';
import type { Wire } from '../values/index.js';
import { SYSTEM } from '../walls/index.js';
import {
  type Cell,
  type CommandInputs,
  type CommandWork,
  Doing,
  Filling,
  fillChanged,
  guarded,
  Journal,
  type KeptTables,
  keepInReach,
  keepPins,
  keyIn,
  kindIn,
  oneInReach,
  Refused,
  type RefusedFor,
  type RowAt,
  RowsIn,
  RulesOfOthers,
  rulesOf,
  Savepoint,
  type Touch,
  type Undo,
  updateRows,
} from '../write/index.js';
import { KnownRows, type Said, type ToldBy } from './known-rows.js';
import { kindNamed, LineReader, saidIn } from './line-reader.js';
import { type FileMapping, type MappedRole, matchOf, rolesMapped, rolesNamed } from './mapping.js';
import { kindsBelow } from './uses.js';
import type { FileValue } from './values.js';

/** A line of a file, with its values in the order of the file's columns. */
export interface FileLine {
  /** Its place in the file, counted from 1; of one that goes over several lines the first of them. */
  readonly number: number;
  readonly values: readonly FileValue[];
  /** Why it cannot be read; null where it can. */
  readonly problem: string | null;
}

/** What became of a line: its row was put in, changed, or left as it was; or why nothing was done. */
export type LineOutcome =
  | { readonly kind: 'created' | 'updated' | 'skipped'; readonly row: RowAt }
  | { readonly kind: 'refused'; readonly faults: readonly LineFault[] };

/** Why a line was refused, and for which of its columns; null where it is none of one column. */
export interface LineFault {
  readonly column: string | null;
  readonly why: RefusedFor;
}

/** What lines came to, all together. */
export interface LinesEnd {
  /** What it takes to take all of it back; null where that is not kept. */
  readonly undo: Undo | null;
  /** A rule of rows that are in no line, which they break by what the lines put in; null where they break none. */
  readonly broken: RefusedFor | null;
}

/** What it takes to put the lines of a file into a database. */
export interface LinesInRequest {
  readonly model: Model;
  readonly mapping: FileMapping;
  readonly inputs: CommandInputs;
  /** What it takes to keep how rows were, so that they can be put back; null: they are not kept. */
  readonly keeps: KeptTables | null;
  /** On whose behalf they are put in. */
  readonly as: ActorName;
}

/** A line that could be read, and what is to be done with it. */
interface ReadyLine {
  readonly at: number;
  readonly entity: string;
  readonly row: readonly Wire[];
  /** The row that is there already; null where there is none. */
  readonly there: RowAt | null;
}

/** How rows of one entity are read and put in. */
interface Way {
  readonly entity: Entity;
  readonly reader: LineReader;
  readonly rows: RowsIn;
  /** Those of which a line gives no key, though a column is it: the engine numbers them. */
  readonly numbered: RowsIn | null;
}

const NO_STATEMENTS = 0;
const NOWHERE = { start: 0, end: 0 };

/**
 * Puts the lines of a file into a database as rows of an entity, so many lines at a time, all within one transaction. A line that is
 * refused leaves nothing behind; whether the others stay is for whoever runs the transaction to say.
 */
export class LinesIn {
  private readonly doing: Doing;
  private readonly entity: Entity;
  private readonly mapping: FileMapping;
  private readonly ways = new Map<string, Way>();
  private readonly roles: readonly { readonly mapped: MappedRole; readonly rows: KnownRows; readonly own: boolean }[];
  private readonly match: readonly string[] | null;
  private readonly kindAt: number;
  private readonly rules: boolean;
  private readonly others: RulesOfOthers;
  private readonly as: ActorName;
  private begun = false;

  constructor(dialect: Dialect, { model, mapping, inputs, keeps, as }: LinesInRequest) {
    this.as = as;
    const journal = keeps === null ? null : new Journal(dialect, keeps);
    this.doing = new Doing(dialect, model, inputs, journal, NO_STATEMENTS);
    this.mapping = mapping;
    this.entity = entityOf(model, mapping.entity);
    this.kindAt = mapping.columns.findIndex(({ use }) => use.kind === 'the kind');
    this.match = mapping.there === 'refuse' ? null : matchOf(model, mapping);
    const family = [this.entity, ...kindsBelow(model, this.entity)];
    this.rules = family.some(({ name }) => rulesOf(model, name).length > 0);
    this.others = new RulesOfOthers(
      this.doing,
      family.flatMap(({ name }) => touchesOf(name, mapping)),
    );
    const root = this.entity.kinds?.root ?? this.entity.name;
    this.roles = rolesMapped(mapping).map((mapped) => {
      const leading = family.flatMap((one) => rolesNamed(one, mapped.role));
      const all = Array.from(new Set(leading.map(({ target }) => target)));
      const targets = mapped.target === null ? all : [mapped.target];
      const rows = new KnownRows(this.doing, targets, toldBy(mapped));
      return { mapped, rows, own: targets.some((one) => (entityOf(model, one).kinds?.root ?? one) === root) };
    });
  }

  /** Puts lines in, and tells what became of each, in their order. */
  *take(lines: readonly FileLine[]): CommandWork<readonly LineOutcome[]> {
    if (!this.begun) {
      yield* this.doing.workAs(this.as, []);
      yield* this.others.look();
    }
    this.begun = true;
    const outcomes: LineOutcome[] = [];
    let from = 0;
    while (from < lines.length) {
      const some = yield* this.upToOneThatWaits(lines.slice(from));
      outcomes.push(...(yield* this.takeSome(some)));
      from += some.length;
      if (from < lines.length) for (const { rows, own } of this.roles) if (own) rows.forget();
    }
    return outcomes;
  }

  /** What the lines came to. To be called once, behind the last of them. */
  *finish(): CommandWork<LinesEnd> {
    for (const { rows, numbered } of this.ways.values()) {
      yield* rows.finish();
      if (numbered !== null) yield* numbered.finish();
    }
    try {
      yield* this.others.keep();
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      return { undo: null, broken: error.why };
    }
    return { undo: this.doing.journal === null ? null : yield* this.doing.journal.finish(), broken: null };
  }

  /**
   * The lines before the first that may speak of a row which one of those puts in: of the same entity, by a role; or the row that it
   * would put in itself, by what rows that are there are told by.
   */
  private *upToOneThatWaits(lines: readonly FileLine[]): CommandWork<readonly FileLine[]> {
    for (const { mapped, rows } of this.roles)
      yield* rows.find(
        lines.flatMap((line) => {
          const said = line.problem === null ? this.saidBy(mapped, line.values) : null;
          return said === null ? [] : [said];
        }),
      );
    const own = this.roles.filter((role) => role.own);
    if (own.length === 0 && this.match === null) return lines;
    const seen = new Set<string>();
    for (const [at, line] of lines.entries()) {
      if (line.problem !== null) continue;
      const waits = own.some(({ mapped, rows }) => {
        const said = this.saidBy(mapped, line.values);
        return said !== null && !rows.of(said).ok;
      });
      const name = this.match === null ? null : JSON.stringify(this.match.map((member) => this.valuesOf(member, line.values)));
      if (at > 0 && (waits || (name !== null && seen.has(name)))) return lines.slice(0, at);
      if (name !== null) seen.add(name);
    }
    return lines;
  }

  private *takeSome(lines: readonly FileLine[]): CommandWork<readonly LineOutcome[]> {
    const outcomes: LineOutcome[] = [];
    let ready: ReadyLine[] = [];
    for (const [at, line] of lines.entries()) {
      const read = this.readLine(at, line);
      if ('entity' in read) ready.push(read);
      else outcomes[at] = read;
    }
    if (this.match !== null) ready = yield* this.lookedUp(ready, lines, outcomes);
    if (!this.rules) {
      yield* this.write(ready, outcomes);
      return outcomes;
    }
    const before = new Savepoint('before_lines');
    yield* before.set();
    for (;;) {
      yield* this.write(ready, outcomes);
      const broken = yield* this.rulesBroken(ready, outcomes);
      if (broken.size === 0) break;
      yield* before.back();
      for (const [at, why] of broken) outcomes[at] = refusedFor(why);
      ready = ready.filter(({ at }) => !broken.has(at));
    }
    yield* before.release();
    return outcomes;
  }

  private readLine(at: number, { values, problem }: FileLine): ReadyLine | LineOutcome {
    if (problem !== null) return refused(null, problem);
    const way = this.wayOf(values);
    if ('problem' in way) return refused(this.mapping.columns[this.kindAt]?.name ?? null, way.problem);
    if (this.match === null && way.reader.lacks !== null) return refused(null, way.reader.lacks);
    const targets = this.roles.map(({ mapped, rows }) => {
      const said = this.saidBy(mapped, values);
      if (said === null) return null;
      const found = rows.of(said);
      return found.ok ? found.row : found;
    });
    const read = way.reader.read(values, targets);
    if (!read.ok) return { kind: 'refused', faults: read.problems.map(({ column, message }) => fault(column, message)) };
    return { at, entity: way.entity.name, row: read.row, there: null };
  }

  /** How a line's row is read and put in, by its kind. */
  private wayOf(values: readonly FileValue[]): Way | { readonly problem: string } {
    const { model } = this.doing;
    const said = this.kindAt < 0 ? null : (saidIn(values[this.kindAt], this.mapping) ?? null);
    const entity = said === null ? this.entity : kindNamed(model, this.entity, String(said));
    if (entity === null) {
      const kinds = this.entity.kinds?.concrete.map((kind) => kind.entity) ?? [];
      return { problem: `“${String(said)}” is no kind of ${this.entity.name}. Write ${kinds.join(' or ')}.` };
    }
    const known = this.ways.get(entity.name);
    if (known !== undefined) return known;
    if (entity.kinds?.abstract === true) return { problem: `${entity.name} is abstract: say the kind of each row.` };
    const reader = new LineReader(this.doing, entity, this.mapping);
    const rowsIn = (columns: LineReader['columns']) => new RowsIn(this.doing, entity.name, columns, this.rules);
    const { columns, numberedAt } = reader;
    const numbered = numberedAt === null ? null : rowsIn(columns.toSpliced(numberedAt, 1));
    const way = { entity, reader, rows: rowsIn(columns), numbered };
    this.ways.set(entity.name, way);
    return way;
  }

  /** Finds the rows that are there already; lines whose row is to stay as it is are done with. */
  private *lookedUp(ready: readonly ReadyLine[], lines: readonly FileLine[], outcomes: LineOutcome[]): CommandWork<ReadyLine[]> {
    const match = this.match ?? [];
    const there = yield* this.rowsThere(match, ready, lines);
    return ready.flatMap((line): ReadyLine[] => {
      const found = there.get(line.at) ?? null;
      if (found === null) {
        const { lacks } = this.ways.get(line.entity)?.reader ?? { lacks: null };
        if (lacks === null) return [line];
        outcomes[line.at] = refused(null, `Its row is not there yet, and ${lacks}`);
        return [];
      }
      if ('problem' in found) {
        outcomes[line.at] = refused(null, found.problem);
        return [];
      }
      if (this.mapping.there === 'skip') outcomes[line.at] = { kind: 'skipped', row: found };
      else if (this.kindAt >= 0 && found.entity !== line.entity)
        outcomes[line.at] = refused(
          this.mapping.columns[this.kindAt]?.name ?? null,
          `${found.entity}(${String(found.key)}) is there, and a row stays of its kind. Delete it first, or leave the line out.`,
        );
      else return [{ ...line, entity: found.entity, there: found }];
      return [];
    });
  }

  private *rowsThere(
    match: readonly string[],
    ready: readonly ReadyLine[],
    lines: readonly FileLine[],
  ): CommandWork<ReadonlyMap<number, RowAt | { readonly problem: string }>> {
    const { model } = this.doing;
    const fields = match.map((name) => this.entity.fields.find((field) => field.name === name && !field.hidden));
    const there = new Map<number, RowAt | { readonly problem: string }>();
    if (!fields.includes(undefined)) {
      // A row of the file is told by texts, whatever they were read as.
      const rows = new KnownRows(this.doing, [this.entity.name], { kind: 'fields', fields: match });
      const said = new Map<number, Said>();
      for (const { at } of ready) {
        const values = match.flatMap((name) => this.valuesOf(name, lines[at]?.values ?? []));
        if (values.every((value) => (saidIn(value, this.mapping) ?? null) !== null)) said.set(at, values);
      }
      yield* rows.find(Array.from(said.values()));
      for (const [at, one] of said) {
        const found = rows.of(one);
        if (found.ok) there.set(at, found.row);
        else if (found.several === true) there.set(at, { problem: found.problem });
      }
      return there;
    }
    for (const line of ready) {
      const where = this.sameAs(match, line);
      if (where === null) continue;
      const [first, ...more] = yield* this.doing.ask(queryOf(this.entity.name, { where }));
      if (first === undefined) continue;
      const entity = kindIn(this.entity.name, first);
      there.set(
        line.at,
        more.length > 0
          ? { problem: `${more.length + 1} rows of ${this.entity.name} are told by ${match.join(', ')} as this one.` }
          : { entity, key: keyIn(model, entity, first) },
      );
    }
    return there;
  }

  /** The conditions under which a row is the one of a line; null where the line says nothing of a part of it. */
  private sameAs(match: readonly string[], { entity, row }: ReadyLine): readonly Expression[] | null {
    const { model } = this.doing;
    const { reader } = this.ways.get(entity) ?? {};
    const conditions = match.map((name): Expression | null => {
      const field = this.entity.fields.find((one) => one.name === name);
      const [role] = rolesNamed(this.entity, name);
      const at = reader?.columns.findIndex((column) => column.name === name) ?? -1;
      const value = row[at] ?? null;
      if (value === null) return null;
      const type = field?.type ?? { kind: 'row' as const, entity: role?.target ?? '' };
      const left: Expression | null =
        field !== undefined
          ? { kind: 'field', hops: [], entity: this.entity.name, field: name, type: field.type, span: NOWHERE }
          : role !== undefined && entityOf(model, role.target).key.fields.length === 1
            ? { kind: 'role', hops: [role], type: { kind: 'row', entity: role.target }, span: NOWHERE }
            : null;
      if (left === null) return null;
      const right: Expression = { kind: 'value', value, type, span: NOWHERE };
      return { kind: 'binary', operator: '=', left, right, type: { kind: 'boolean' }, span: NOWHERE };
    });
    return conditions.includes(null) ? null : conditions.flatMap((one) => one ?? []);
  }

  private *write(ready: readonly ReadyLine[], outcomes: LineOutcome[]): CommandWork<void> {
    for (const { entity, reader, rows, numbered } of this.ways.values()) {
      const at = reader.numberedAt;
      const made = ready.filter((line) => line.there === null && line.entity === entity.name);
      const isNumbered = ({ row }: ReadyLine) => at !== null && row[at] === null;
      yield* this.putIn(rows, at === null ? made : made.filter((line) => !isNumbered(line)), outcomes);
      if (at === null || numbered === null) continue;
      const without = made.filter(isNumbered).map((line) => ({ ...line, row: line.row.toSpliced(at, 1) }));
      yield* this.putIn(numbered, without, outcomes);
    }
    for (const line of ready) if (line.there !== null) outcomes[line.at] = yield* this.change(line, line.there);
  }

  private *putIn(rows: RowsIn, made: readonly ReadyLine[], outcomes: LineOutcome[]): CommandWork<void> {
    const [first] = made;
    if (first === undefined) return;
    const put = yield* rows.put(made.map(({ row }) => row));
    // Rows whose keys are not asked for all come to the same.
    const created: LineOutcome = { kind: 'created', row: { entity: first.entity, key: null } };
    for (let index = 0; index < made.length; index++) {
      const at = made[index]?.at;
      const one = put[index];
      if (at === undefined || one === undefined) continue;
      if ('refused' in one) outcomes[at] = refusedFor(one.refused);
      else outcomes[at] = one.key === null ? created : { ...created, row: { ...created.row, key: one.key } };
    }
  }

  /** Gives a row that is there what its line says. */
  private *change(line: ReadyLine, there: RowAt): CommandWork<LineOutcome> {
    const { reader } = this.ways.get(line.entity) ?? {};
    const { fields, key } = entityOf(this.doing.model, there.entity);
    const filling = new Filling(there.entity);
    for (const at of reader?.said ?? []) {
      const column = reader?.columns[at];
      if (column === undefined) continue;
      const field = fields.find((one) => one.column.value === column.column);
      // What is set once was set when the row was made.
      if (field?.fixed === true || key.columns.includes(column.column)) continue;
      const { name, ...cell } = column;
      const value = line.row[at] ?? null;
      filling.fill(name, 'given', value, [{ ...cell, value }]);
    }
    if (filling.told.length === 0) return { kind: 'updated', row: there };
    fillChanged(this.doing, filling);
    const cells = Array.from(filling.cells.values());
    const done = yield* guarded(this.changed(there, filling, cells), () => null);
    return done === null ? { kind: 'updated', row: there } : refusedFor(done.refused);
  }

  private *changed(there: RowAt, { cells: byColumn, told }: Filling, cells: readonly Cell[]): CommandWork<void> {
    keepPins(this.doing, there.entity, byColumn);
    yield* updateRows(this.doing, yield* oneInReach(this.doing, there, 'Updating'), cells, told);
    yield* keepInReach(this.doing);
  }

  /** The rules that rows of these lines break, by the places of the lines. */
  private *rulesBroken(
    ready: readonly ReadyLine[],
    outcomes: readonly LineOutcome[],
  ): CommandWork<ReadonlyMap<number, RefusedFor>> {
    const { model } = this.doing;
    const broken = new Map<number, RefusedFor>();
    const byEntity = new Map<string, Map<string, { readonly at: number; readonly key: Wire }>>();
    for (const { at } of ready) {
      const outcome = outcomes[at];
      if (outcome === undefined || outcome.kind === 'refused' || outcome.kind === 'skipped') continue;
      const own = byEntity.get(outcome.row.entity) ?? new Map<string, { readonly at: number; readonly key: Wire }>();
      own.set(String(outcome.row.key), { at, key: outcome.row.key });
      byEntity.set(outcome.row.entity, own);
    }
    for (const [entity, rows] of byEntity)
      for (const { owner, rule } of rulesOf(model, entity)) {
        const where = [{ kind: 'not', operand: rule.expression, type: { kind: 'boolean' }, span: NOWHERE } as const];
        const found = yield* this.doing.rowsByKey(
          entity,
          Array.from(rows.values(), ({ key }) => key),
          { where },
          { as: SYSTEM },
        );
        for (const row of found.values()) {
          const key = keyIn(model, entity, row);
          const one = rows.get(String(key));
          if (one !== undefined) broken.set(one.at, { kind: 'rule', entity: owner, rule: rule.name, message: rule.message, key });
        }
      }
    return broken;
  }

  /** What a line says of the row behind a role; null where it says nothing. */
  private saidBy({ said }: MappedRole, values: readonly FileValue[]): Said | null {
    const [only] = said;
    if (only !== undefined && said.length === 1) {
      const value = saidIn(values[only.at], this.mapping) ?? null;
      return value === null ? null : [value];
    }
    const all = said.map(({ at }) => saidIn(values[at], this.mapping) ?? null);
    return all.every((value) => value === null) ? null : all.map((value) => value ?? '');
  }

  /** The values of the columns that are a field or a role. */
  private valuesOf(name: string, values: readonly FileValue[]): FileValue[] {
    return this.mapping.columns.flatMap(({ use }, at) =>
      (use.kind === 'field' && use.field === name) || (use.kind === 'role' && use.role === name) ? [values[at]] : [],
    );
  }
}

function toldBy({ said }: MappedRole): ToldBy {
  const fields = said.flatMap(({ by }) => (by.kind === 'field' ? [by.field] : []));
  const [first] = said;
  if (fields.length > 0) return { kind: 'fields', fields };
  return first?.by.kind === 'shown' ? { kind: 'shown' } : { kind: 'key' };
}

function refused(column: string | null, message: string): LineOutcome {
  return { kind: 'refused', faults: [fault(column, message)] };
}

function refusedFor(why: RefusedFor): LineOutcome {
  return { kind: 'refused', faults: [{ column: null, why }] };
}

function fault(column: string | null, message: string): LineFault {
  return { column, why: { kind: 'words', about: 'value', message } };
}

/** What lines do to rows of an entity: they come, and where rows that are there are changed, these fields and roles do. */
function touchesOf(entity: string, { columns, there }: FileMapping): readonly Touch[] {
  const names = columns.flatMap(({ use }) => (use.kind === 'field' ? [use.field] : use.kind === 'role' ? [use.role] : []));
  const come: Touch = { entity, names: 'rows', line: 0 };
  return there === 'update' ? [come, { entity, names, line: 0 }] : [come];
}
