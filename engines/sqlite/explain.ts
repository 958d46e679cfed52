import type Database from 'better-sqlite3';
import { type Explained, type PlanStep, planStep } from '../../core/load/index.js';
import { sqlName, sqlTokens } from '../../core/sql/index.js';

interface PlanRow {
  readonly id: number;
  readonly parent: number;
  readonly detail: string;
}

/**
 * How SQLite will answer a statement, in words (SQLite, “EXPLAIN QUERY PLAN”). Empty where the statement cannot be explained.
 * It tells of no step how many rows it expects. Measured, the rows of a table that is read whole are counted; more it cannot say.
 */
export function explain(database: Database.Database, sql: string, explained: Explained = 'expected'): PlanStep[] {
  let rows: PlanRow[];
  try {
    rows = database.prepare(`explain query plan ${sql}`).all(nulls(sql)) as PlanRow[];
  } catch {
    return [];
  }
  // A limit ends the reading of a table, unless all of it is sorted first.
  const stopsEarly = /\blimit\b/i.test(sql) && !rows.some(({ detail }) => detail.startsWith('USE TEMP B-TREE'));
  const depths = new Map<number, number>([[0, -1]]);
  return rows.map(({ id, parent, detail }) => {
    const depth = (depths.get(parent) ?? -1) + 1;
    depths.set(id, depth);
    const step = inWords(detail);
    const counts = explained === 'measured' && step.mark === 'full scan' && !stopsEarly;
    const found = counts ? rowsOf(database, sql, detail) : null;
    return planStep(depth, step.text, { mark: step.mark, found });
  });
}

/** A plan does not depend on the values, but a statement runs only with all of its parameters bound. */
function nulls(sql: string): Record<string, null> {
  return Object.fromEntries(Array.from(sql.matchAll(/:([a-z_]\w*)/gi), (match) => [match[1] ?? '', null]));
}

/** The rows of the table that a step reads whole: the plan has the name by which the statement calls it. */
function rowsOf(database: Database.Database, sql: string, detail: string): number | null {
  const called = /^SCAN (\S+)/.exec(detail)?.[1] ?? '';
  for (const table of [called, ...namedBefore(sql, called)])
    try {
      return Number(
        database
          .prepare(`select count(*) from "${table.replaceAll('"', '""')}"`)
          .pluck()
          .get(),
      );
    } catch {
      // No table has that name: it is another's in this statement.
    }
  return null;
}

/** The names that stand right before another, or before `as` and the other: what it may be called for. */
function namedBefore(sql: string, called: string): string[] {
  const tokens = sqlTokens(sql).map((token) => ({ ...token, name: sqlName(token) }));
  return tokens.flatMap(({ name }, at) => {
    if (name.toLowerCase() !== called.toLowerCase()) return [];
    const before = tokens[at - 1]?.text.toLowerCase() === 'as' ? tokens[at - 2] : tokens[at - 1];
    return before === undefined ? [] : [before.name];
  });
}

function inWords(detail: string): Pick<PlanStep, 'text' | 'mark'> {
  const plain = (text: string) => ({ text, mark: null });
  const keys = /^SCAN (\S+) VIRTUAL TABLE/.exec(detail);
  if (keys !== null) return plain('goes through the keys that are bound');
  const covered = /^SCAN (\S+)(?: EXISTS)? USING COVERING INDEX (\S+)/.exec(detail);
  if (covered !== null)
    return { text: `reads every entry of index ${covered[2]}, and not the rows of ${covered[1]}`, mark: 'full scan' };
  const inOrder = /^SCAN (\S+)(?: EXISTS)? USING INDEX (\S+)/.exec(detail);
  if (inOrder !== null)
    return { text: `reads every row of ${inOrder[1]}, in the order of index ${inOrder[2]}`, mark: 'full scan' };
  const scan = /^SCAN (\S+)/.exec(detail);
  if (scan !== null) {
    const constant = /CONSTANT ROW|^SCAN \(?(subquery|CTE)/i.test(detail);
    return { text: constant ? 'reads a row of constants' : `reads every row of ${scan[1]}`, mark: constant ? null : 'full scan' };
  }
  const byKey = /^SEARCH (\S+)(?: EXISTS)? USING (?:INTEGER )?PRIMARY KEY \((.*)\)( LEFT-JOIN)?$/.exec(detail);
  if (byKey !== null) return plain(`finds rows of ${byKey[1]} by the key (${byKey[2]})`);
  const made = /^SEARCH (\S+)(?: EXISTS)? USING AUTOMATIC (?:PARTIAL )?(?:COVERING )?INDEX \((.*)\)/.exec(detail);
  if (made !== null)
    return { text: `makes an index on ${made[1]} for this run alone (${made[2]}), since none helps`, mark: 'full scan' };
  const byIndex = /^SEARCH (\S+)(?: EXISTS)? USING (COVERING )?INDEX (\S+) \((.*)\)/.exec(detail);
  if (byIndex !== null)
    return plain(
      `finds rows of ${byIndex[1]} by index ${byIndex[3]} (${byIndex[4]})${byIndex[2] === undefined ? '' : ', and needs nothing else'}`,
    );
  const sorts = /^USE TEMP B-TREE FOR (.*)/.exec(detail);
  if (sorts !== null) return { text: `sorts for ${(sorts[1] ?? '').toLowerCase()}`, mark: 'sort' };
  const below = /^(CORRELATED )?(SCALAR|LIST) SUBQUERY/.exec(detail);
  if (below !== null) return plain(below[1] === undefined ? 'asks this once:' : 'asks this for each row:');
  const names = /^(MATERIALIZE|CO-ROUTINE) (.*)/.exec(detail);
  if (names !== null) return { text: `makes ${names[2]} first:`, mark: 'temporary table' };
  return plain(detail.toLowerCase());
}
