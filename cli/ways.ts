import { adviceOn, timeAt } from '../core/ways/index.js';
import type { WaysMeasured } from '../services/index.js';

/** The delays for which it is said how long each way takes: on the same machine, in the same house, and far away. */
const DELAYS = [0, 1, 20];

/** `run --ways`: what loading costs in each way, as a table, or as JSON with the SQL of each. */
export function printWays({ parents, wanted, costs }: WaysMeasured, json: boolean): void {
  if (json) {
    process.stdout.write(
      `${JSON.stringify({ parents, wanted, advice: adviceOn(costs, 0)?.text ?? null, ways: costs }, null, 2)}\n`,
    );
    return;
  }
  const head = ['way', 'statements', 'lines', 'values', 'bytes', ...DELAYS.map((delay) => `ms at ${delay}`), 'answer'];
  const lines = costs.map((cost) => [
    cost.way,
    String(cost.statements),
    String(cost.rows),
    String(cost.cells),
    String(cost.bytes),
    ...DELAYS.map((delay) => timeAt(cost, delay).toFixed(1)),
    cost.problem ?? 'equal',
  ]);
  const widths = head.map((title, at) =>
    Math.max(title.length, ...lines.map((line) => (at === head.length - 1 ? 0 : (line[at]?.length ?? 0)))),
  );
  const row = (cells: readonly string[]) =>
    cells
      .map((cell, at) => (at === 0 || at === cells.length - 1 ? cell.padEnd(widths[at] ?? 0) : cell.padStart(widths[at] ?? 0)))
      .join('  ')
      .trimEnd();
  process.stdout.write(`${adviceOn(costs, 0)?.text ?? 'No way could be compared.'}\n\n`);
  process.stdout.write(`${[head, ...lines].map(row).join('\n')}\n\n`);
  process.stdout.write(
    `${parents} rows, ${wanted} with all that is loaded below them. Behind “ms at”: milliseconds that each statement is under way.\n`,
  );
}
