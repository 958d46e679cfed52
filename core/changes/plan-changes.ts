import type { Dialect } from '../dialects/index.js';
import type { Column, Schema } from '../schema/index.js';
import { familyOf } from '../values/index.js';
import type { Answers } from './answers.js';
import { type Change, changesOf } from './changes.js';
import { compare, isSame } from './compare.js';
import { typeOfColumn } from './conversion.js';
import { type Counted, countRows } from './count-rows.js';
import { firstRowsOf } from './first-rows.js';
import type { Operation } from './operation.js';
import { columnKey, type FormerNames, type Paired, pairUp, type TablePair, tableKey } from './pairs.js';
import type { PlanWork } from './plan-work.js';
import { type Question, questionsOf } from './questions.js';
import { rowsOf, shapesOf } from './shape.js';
import type { Placed, Shaping } from './shaping.js';
import { strategies } from './strategies.js';

/** A database, and what it is to become. Both are as the engine reads them back. */
export interface PlanRequest {
  readonly dialect: Dialect;
  readonly before: Schema;
  readonly after: Schema;
  /** What the text says that things were called. */
  readonly former: FormerNames;
  readonly answers: Answers;
  /**
   * What the design made of the database the last time; null where it never did. What only the database has goes where it is in
   * there: all else is somebody else's, and is never touched.
   */
  readonly last: Schema | null;
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
  const paired = pairUp(before, after, said, {
    mine: (table) => mine.has(tableKey(table)),
    alike: (one, other) => isAlike(dialect, one, other),
  });
  const difference = compare(withoutStrangers(request, paired), after, paired, dialect.quote);
  if (isSame(difference)) return { changes: [], questions: [], faults: [], operations: [] };
  const faults = new Set<string>();
  const shaping = (placed: Placed, named: Shaping['named']): Shaping => ({
    dialect,
    before,
    after,
    paired,
    answers,
    now: request.now,
    placed,
    named,
    merged: () => null,
    fault: (message) => void faults.add(message),
  });
  const asIs = shaping(
    (table) => table,
    (_table, column) => column,
  );
  const counted = yield* countRows(asIs, difference);
  const questions = yield* questionsOf(asIs, difference, counted);
  const changes = changesOf(difference).map((change) => judged(change, counted, questions));
  if (questions.length > 0 || faults.size > 0) return { changes, questions, faults: Array.from(faults), operations: [] };
  const named = newNames(paired);
  const operations = strategies[dialect.name]({
    dialect,
    before,
    after,
    paired,
    difference,
    answers,
    shapes: (placed) => shapesOf(shaping(placed, named)),
    rows: (shape, placed) => rowsOf(shaping(placed, named), shape),
    firstRows: (table, placed) => firstRowsOf(shaping(placed, named), table),
  });
  return { changes, questions, faults: Array.from(faults), operations };
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
