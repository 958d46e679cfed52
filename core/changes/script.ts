import type { Dialect } from '../dialects/index.js';
import type { Operation } from './operation.js';
import { strategies } from './strategies.js';

/** A plan's statements as a script of its engine's shell: each with what it is for, all or nothing of them. Empty for none. */
export function scriptOfPlan(dialect: Dialect, operations: readonly Operation[]): string {
  const engine = strategies[dialect.name];
  if (engine === null || operations.length === 0) return '';
  const { head, tail } = engine.script;
  const statements = operations.map(
    ({ sql, what, table }) => `-- ${table === null ? '' : `${table}: `}${what}\n${dialect.ended(sql)}\n`,
  );
  return `${head.join('\n')}\n\n${statements.join('\n')}\n${tail.join('\n')}\n`;
}
