import type { Dialect } from '../dialects/index.js';
import { type Column, OWN_PREFIX, type Schema, type Table } from '../schema/index.js';
import { reads, type TableName } from '../sql/index.js';
import { familyOf } from '../values/index.js';
import { type Answers, writtenPlace } from './answers.js';
import type { Aside } from './aside.js';
import { asidesOf, returningRows } from './asides.js';
import { type HandStep, type PlacedHandStep, withHandSteps, withHandStepsBack } from './by-hand.js';
import { type Change, changesOf } from './changes.js';
import { compare, type Difference, isSame } from './compare.js';
import { typeOfColumn } from './conversion.js';
import { type Counted, countRows, tablesTouched } from './count-rows.js';
import { enumeratedTypes } from './enumerated.js';
import { firstRowsOf } from './first-rows.js';
import { madeRowsOf } from './made-rows.js';
import { keepingsOf, mergedRows } from './merging.js';
import type { Operation } from './operation.js';
import { columnKey, type FormerNames, type Paired, pairUp, type TablePair, tableKey } from './pairs.js';
import type { PlanWork } from './plan-work.js';
import { type Question, questionsOf } from './questions.js';
import { declared, rowsOf } from './rows-of.js';
import { shapesOf } from './shape.js';
import type { Placed, Shaping } from './shaping.js';
import { strategies } from './strategies.js';
import type { Merges } from './working.js';

/** A database, and what it is to become. Both are as the engine reads them back. */
export interface PlanRequest {
  readonly dialect: Dialect;
  readonly before: Schema;
  readonly after: Schema;
  /** The same as the text states it, where there is one: an engine that is told its own words again may write others. */
  readonly stated: Schema | null;
  /** What the text says that things were called. */
  readonly former: FormerNames;
  readonly answers: Answers;
  /**
   * What the design made of the database the last time; null where it never did. What only the database has goes where it is in
   * there: all else is somebody else's, and is never touched.
   */
  readonly last: Schema | null;
  /** The tables that are somebody else's, as the text says: they stay, whoever made them. */
  readonly given: readonly TableName[];
  /** What was kept aside of what is to come back. */
  readonly asides: readonly Aside[];
  /** What was done by hand in the plan that is taken back; nothing where it is none of that sort. */
  readonly doneByHand: readonly HandStep[];
  /** What was done by hand in plans that stand: none of it is done again. */
  readonly byHandBefore: readonly HandStep[];
  /** The number that the plan will have in the history. */
  readonly number: number;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
}

/** Whether a change can be made as it stands. */
export type Verdict = 'safe' | 'needs an answer' | 'loses data';

/** A change, and what its rows say to it. */
export interface PlannedChange extends Change {
  readonly verdict: Verdict;
  /** How many rows it touches, as they were counted. */
  readonly rows: number;
  /** How many of them lose a value, or go. */
  readonly lost: number;
}

/** What would happen to a database, in the order in which it would. */
export interface ChangePlan {
  readonly changes: readonly PlannedChange[];
  readonly questions: readonly Question[];
  /** Answers that do not stand, in words. */
  readonly faults: readonly string[];
  /** The statements, in working order; none while a question is open. */
  readonly operations: readonly Operation[];
  /** What of the database is the design's, as it is. */
  readonly owned: Schema;
  /** What is kept aside of what goes. */
  readonly asides: readonly Aside[];
  /** Which table and column of the database is which of the design. */
  readonly paired: Paired;
  /** The steps by hand of this engine, once the statements are known that they stand among. */
  readonly byHand: readonly PlacedHandStep[];
}

/**
 * Plans what turns a database into what its design asks for. The rows are asked where a change rests on them: nothing about
 * them is guessed.
 */
export function* planChanges(request: PlanRequest): PlanWork<ChangePlan> {
  const { dialect, before, after, answers, former } = request;
  const said: FormerNames = {
    tables: new Map([...former.tables, ...answers.tables]),
    columns: new Map([...former.columns, ...answers.columns]),
  };
  const mine = new Set(request.last?.tables.map(({ name }) => tableKey(name)));
  for (const name of request.given) mine.delete(tableKey(name));
  const paired = pairUp(before, after, said, {
    mine: (table) => mine.has(tableKey(table)),
    alike: (one, other) => isAlike(dialect, one, other),
  });
  const faults = new Set<string>();
  const enumerated = { before: enumeratedTypes(before.prelude), after: enumeratedTypes(after.prelude) };
  const shaping = (placed: Placed, named: Shaping['named'], merged: Shaping['merged'] = () => null): Shaping => ({
    dialect,
    before,
    after,
    paired,
    enumerated,
    isCarriedOut: true,
    answers,
    now: request.now,
    placed,
    named,
    merged,
    rowAddress: strategies[dialect.name].rowAddress,
    within: new Set(),
    asides: request.asides,
    fault: (message) => void faults.add(message),
  });
  const asIs: Shaping = {
    ...shaping(
      (table) => table,
      (_table, column) => column,
      (table) => (mergedTable(table) === null ? null : 'asked'),
    ),
    isCarriedOut: false,
  };
  const owned = withoutStrangers(request, paired);
  const engine = strategies[dialect.name];
  const named = engine.renamesFirst ? newNames(paired) : (_table: TableName, column: string) => column;
  const mergedTable = (table: TableName): TableName | null => {
    const to = answers.keeping.length === 0 ? null : paired.byBefore.get(tableKey(table))?.after;
    return to == null || keepingsOf(request, to.name).length === 0
      ? null
      : { schema: table.schema, name: `${OWN_PREFIX}merged_${to.name.name}` };
  };
  const given = new Set(
    shapesOf(shaping((table) => table, named, mergedTable)).flatMap(({ pair, columns, leftOut, mergedAway }) =>
      leftOut.length + mergedAway.length > 0 || columns.some(({ carried }) => !carried) ? [pair.before] : [],
    ),
  );
  // Of a table whose columns all stay the rows say whether an answer still means something.
  for (const { before: changed } of compare(owned, after, paired, dialect.quote).changed) given.delete(changed);
  const coming = paired.tables.flatMap(({ before: table, after: to }) =>
    table !== null && to !== null && returningRows(request.asides, to).length > 0 ? [table] : [],
  );
  const touched = new Set([...coming, ...(yield* tablesTouched(asIs, given))]);
  const difference = compare(owned, after, paired, dialect.quote, (pair) => pair.before !== null && touched.has(pair.before));
  const told = { owned, paired, asides: [], byHand: [] };
  if (isSame(difference)) {
    const operations = withHandStepsBack([], request.doneByHand);
    return { ...told, changes: [], questions: [], faults: Array.from(faults), operations };
  }
  for (const name of missingGiven(request, difference))
    faults.add(
      `${writtenPlace(name)} is somebody else’s, as the text says, and is not in this database, so that no key can lead to it. Have it made there first.`,
    );
  const counted = yield* countRows(asIs, difference);
  const questions = yield* questionsOf(asIs, difference, counted);
  const made = madeRowsOf(asIs, shapesOf(asIs)).map(({ tableAfter }) => tableAfter);
  const changes = changesOf(difference, made).map((change) => judged(change, counted, questions));
  if (questions.length > 0 || faults.size > 0) return { ...told, changes, questions, faults: Array.from(faults), operations: [] };
  const changingShapes = (around: Shaping) =>
    shapesOf(around).filter(({ pair }) => difference.changed.some((change) => change.before === pair.before));
  const keptBy = (placed: Placed) => {
    const around = shaping(placed, named, mergedTable);
    const nameOf = (at: number) => `${OWN_PREFIX}kept_${request.number}_${at}`;
    const shapes = changingShapes(around);
    return asidesOf(around, shapes, difference.gone, madeRowsOf(around, shapes), nameOf);
  };
  const generated = engine.strategy({
    dialect,
    before,
    after,
    paired,
    difference,
    shapes: (placed) => shapesOf(shaping(placed, named, mergedTable)),
    declared: (column, value) => declared({ dialect, enumerated, isCarriedOut: true }, column, value),
    rows: (shape, placed) => rowsOf(shaping(placed, named, mergedTable), shape),
    stated: (table) => asStated(table, request.stated),
    merges: (placed) => {
      if (answers.keeping.length === 0) return [];
      const around = shaping(placed, named, mergedTable);
      const merges = shapesOf(around).flatMap((shape) => {
        const { before: table, after: to } = shape.pair;
        const into = mergedTable(table.name);
        const selects = keepingsOf(request, to.name).flatMap((keeping, at) => {
          // What one answer lets go is in the table when the next is asked.
          if (at > 0) return mergedRows(around, shape, keeping) ?? [];
          const before = shaping(placed, named, (other) =>
            tableKey(other) === tableKey(table.name) ? null : mergedTable(other),
          );
          const bare = shapesOf(before).find(({ pair }) => pair.before === shape.pair.before);
          return bare === undefined ? [] : (mergedRows(before, bare, keeping) ?? []);
        });
        return into === null || selects.length === 0 ? [] : [{ of: table.name, table: into, selects }];
      });
      return inOrder(merges, (message) => void faults.add(message));
    },
    asides: keptBy,
    madeRows: (placed) => {
      const around = shaping(placed, named, mergedTable);
      return madeRowsOf(around, changingShapes(around));
    },
    returning: (table, at = table.name) =>
      returningRows(request.asides, table, {
        at,
        written: (column, value) => declared({ dialect, enumerated, isCarriedOut: true }, column, value),
      }),
    firstRows: (table, placed) => firstRowsOf(shaping(placed, named, mergedTable), table),
  });
  const asides = keptBy((table) => table).map(({ aside }) => aside);
  const changing = new Set(changes.flatMap(({ table }) => (table === null ? [] : [writtenPlace(table)])));
  const byHand = withHandSteps(generated, answers.byHand, dialect.name, { done: request.byHandBefore, changing });
  for (const message of byHand.faults) faults.add(message);
  const operations = faults.size > 0 ? [] : withHandStepsBack(byHand.operations, request.doneByHand);
  return { ...told, changes, questions, faults: Array.from(faults), operations, asides, byHand: byHand.placed };
}

/** The tables of somebody else's that a key is to lead to, and that are not there. */
function missingGiven({ before, given }: PlanRequest, { made, changed }: Difference): readonly TableName[] {
  const there = new Set(before.tables.map(({ name }) => tableKey(name)));
  const keys = [
    ...made.flatMap(({ after }) => after?.foreignKeys ?? []),
    ...changed.flatMap(({ foreignKeys }) => foreignKeys.made),
  ];
  const wanted = new Set(keys.map((key) => tableKey({ schema: key.schema, name: key.table })));
  return given.filter((name) => wanted.has(tableKey(name)) && !there.has(tableKey(name)));
}

/** Whether two columns hold values of one family: a text may have another length, a number another size. */
function isAlike(dialect: Dialect, one: Column, other: Column): boolean {
  const [first, second] = [typeOfColumn(dialect, one), typeOfColumn(dialect, other)];
  if (first.kind === 'sql' || second.kind === 'sql') return one.type.toLowerCase() === other.type.toLowerCase();
  return familyOf(first) === familyOf(second);
}

/** Without what is nobody's, or somebody else's. */
function withoutStrangers({ before, after, last }: PlanRequest, { tables }: Paired): Schema {
  const touched = new Set(tables.flatMap((pair) => (pair.before === null ? [] : [tableKey(pair.before.name)])));
  const known = (of: 'prelude' | 'others') => {
    const said = new Set([...after[of], ...(last?.[of] ?? [])]);
    return before[of].filter((sql) => said.has(sql));
  };
  return {
    prelude: known('prelude'),
    tables: before.tables.filter(({ name }) => touched.has(tableKey(name))),
    others: known('others'),
  };
}

/** A table as it is printed: its conditions in the words of the text. */
function asStated(table: Table, stated: Schema | null): Table {
  const own = stated?.tables.find(({ name }) => tableKey(name) === tableKey(table.name));
  if (own === undefined) return table;
  return {
    ...table,
    columns: table.columns.map((column) => {
      const same = own.columns.find(({ name }) => name === column.name);
      return same?.generated == null || column.generated === null ? column : { ...column, generated: same.generated };
    }),
    checks: table.checks.map((check) => own.checks.find(({ name }) => name !== null && name === check.name) ?? check),
  };
}

/** What becomes one before what that rests on. */
function inOrder(merges: readonly Merges[], fault: (message: string) => void): readonly Merges[] {
  const sorted: Merges[] = [];
  const visit = (one: Merges, above: readonly Merges[]): void => {
    if (sorted.includes(one)) return;
    if (above.includes(one)) {
      const circle = above.slice(above.indexOf(one)).map(({ of }) => writtenPlace(of));
      fault(
        `Which rows of ${circle.join(' and ')} become one rests on the others’. Answer for one of these first, and for the others in a plan after it.`,
      );
      return;
    }
    for (const other of merges) if (other !== one && reads(one.selects, other.table)) visit(other, [...above, one]);
    sorted.push(one);
  };
  for (const one of merges) visit(one, []);
  return sorted;
}

/** What a column is called once names are as they will be. */
function newNames({ tables }: Paired): Shaping['named'] {
  const names = new Map(
    tables.flatMap(({ before, after, columns }: TablePair) =>
      before === null || after === null
        ? []
        : columns.flatMap((pair) =>
            pair.before === null || pair.after === null
              ? []
              : [[columnKey(before.name, pair.before.name), pair.after.name] as const],
          ),
    ),
  );
  return (table, column) => names.get(columnKey(table, column)) ?? column;
}

function judged(change: Change, counted: Counted, questions: readonly Question[]): PlannedChange {
  const { rows, lost } = counted.of(change);
  const isAsked = questions.some(({ of }) => of === change.id);
  return { ...change, rows, lost, verdict: isAsked ? 'needs an answer' : lost > 0 ? 'loses data' : 'safe' };
}
