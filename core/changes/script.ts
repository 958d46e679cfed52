import type { Dialect } from '../dialects/index.js';
import type { DialectName } from '../notation/index.js';
import { type HistoryEntry, notingInScript } from './history.js';
import type { Operation } from './operation.js';
import { strategies } from './strategies.js';

/**
 * A plan's statements as a script of its engine's shell: each with what it is for, all or nothing of them. Empty for none.
 *
 * @param noted what the history says of it once it was run; a script that notes itself runs once, and its database knows of it
 */
export function scriptOfPlan(dialect: Dialect, operations: readonly Operation[], noted?: HistoryEntry): string {
  if (operations.length === 0) return '';
  const { head, tail, check = (sql: string) => sql } = strategies[dialect.name].script;
  const statements = operations.map(
    ({ sql, what, table, kind }) =>
      `-- ${table === null ? '' : `${table}: `}${what}\n${dialect.ended(kind === 'check' ? check(sql) : sql)}\n`,
  );
  const notes =
    noted === undefined
      ? ''
      : `-- number ${noted.number} of the history: where it was run before, the script ends here\n${notingInScript(dialect, noted).map(dialect.ended).join('\n')}\n\n`;
  return `${head.join('\n')}\n\n${notes}${statements.join('\n')}\n${tail.join('\n')}\n`;
}

/** Who waits for what while a plan is carried out, as the engine's manual has it. */
export function locksOf(dialect: DialectName): string {
  return strategies[dialect].locks;
}

/** Whether each definition of an engine commits by itself, so that a plan is noted step by step. */
export function commitsDefinitions(dialect: DialectName): boolean {
  return strategies[dialect].commits;
}
