import type Database from 'better-sqlite3';
import type { PlanStep } from '../../core/load/index.js';

interface PlanRow {
  readonly id: number;
  readonly parent: number;
  readonly detail: string;
}

/**
 * How SQLite will answer a statement, in words (SQLite, “EXPLAIN QUERY PLAN”). A step that reads every row of a table
 * is marked as a scan. Empty where the statement cannot be explained.
 */
export function explain(database: Database.Database, sql: string): PlanStep[] {
  let rows: PlanRow[];
  try {
    rows = database.prepare(`explain query plan ${sql}`).all(nulls(sql)) as PlanRow[];
  } catch {
    return [];
  }
  const depths = new Map<number, number>([[0, -1]]);
  return rows.map(({ id, parent, detail }) => {
    const depth = (depths.get(parent) ?? -1) + 1;
    depths.set(id, depth);
    return { depth, ...inWords(detail) };
  });
}

/** A plan does not depend on the values, but a statement runs only with all of its parameters bound. */
function nulls(sql: string): Record<string, null> {
  return Object.fromEntries(Array.from(sql.matchAll(/:([a-z_]\w*)/gi), (match) => [match[1] ?? '', null]));
}

function inWords(detail: string): Pick<PlanStep, 'text' | 'scan'> {
  const plain = (text: string) => ({ text, scan: false });
  const keys = /^SCAN (\S+) VIRTUAL TABLE/.exec(detail);
  if (keys !== null) return plain('goes through the keys that are bound');
  const covered = /^SCAN (\S+)(?: EXISTS)? USING COVERING INDEX (\S+)/.exec(detail);
  if (covered !== null)
    return { text: `reads every entry of index ${covered[2]}, and not the rows of ${covered[1]}`, scan: true };
  const inOrder = /^SCAN (\S+)(?: EXISTS)? USING INDEX (\S+)/.exec(detail);
  if (inOrder !== null) return { text: `reads every row of ${inOrder[1]}, in the order of index ${inOrder[2]}`, scan: true };
  const scan = /^SCAN (\S+)/.exec(detail);
  if (scan !== null) {
    const constant = /CONSTANT ROW|^SCAN \(?(subquery|CTE)/i.test(detail);
    return { text: constant ? 'reads a row of constants' : `reads every row of ${scan[1]}`, scan: !constant };
  }
  const byKey = /^SEARCH (\S+)(?: EXISTS)? USING (?:INTEGER )?PRIMARY KEY \((.*)\)( LEFT-JOIN)?$/.exec(detail);
  if (byKey !== null) return plain(`finds rows of ${byKey[1]} by the key (${byKey[2]})`);
  const made = /^SEARCH (\S+)(?: EXISTS)? USING AUTOMATIC (?:PARTIAL )?(?:COVERING )?INDEX \((.*)\)/.exec(detail);
  if (made !== null)
    return { text: `makes an index on ${made[1]} for this run alone (${made[2]}), since none helps`, scan: true };
  const byIndex = /^SEARCH (\S+)(?: EXISTS)? USING (COVERING )?INDEX (\S+) \((.*)\)/.exec(detail);
  if (byIndex !== null)
    return plain(
      `finds rows of ${byIndex[1]} by index ${byIndex[3]} (${byIndex[4]})${byIndex[2] === undefined ? '' : ', and needs nothing else'}`,
    );
  const sorts = /^USE TEMP B-TREE FOR (.*)/.exec(detail);
  if (sorts !== null) return plain(`sorts for ${(sorts[1] ?? '').toLowerCase()}`);
  const below = /^(CORRELATED )?(SCALAR|LIST) SUBQUERY/.exec(detail);
  if (below !== null) return plain(below[1] === undefined ? 'asks this once:' : 'asks this for each row:');
  const names = /^(MATERIALIZE|CO-ROUTINE) (.*)/.exec(detail);
  if (names !== null) return plain(`makes ${names[2]} first:`);
  return plain(detail.toLowerCase());
}
