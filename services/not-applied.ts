import type { Applied } from '../core/changes/index.js';
import { leftWords } from './left-half-done.js';

/** Why a plan was not carried out, in words for a person. */
export function notAppliedWords(applied: Exclude<Applied, { kind: 'applied' }>): string {
  switch (applied.kind) {
    case 'moved':
      return `The database has changed since the plan was made, so nothing was done:\n${listed(applied.differs)}Make the plan again.`;
    case 'dangling':
      return `Rows of ${applied.tables.join(', ')} would point at nothing, so nothing was done. Make the plan again.`;
    case 'unlike': {
      const stays =
        applied.number === null
          ? 'so nothing was done'
          : `and stays as number ${applied.number} of the history, which can be undone`;
      return `What came out was not what the text says, ${stays}. This is a fault of the program:\n${listed(applied.differs)}`;
    }
    case 'left':
      return leftWords(applied);
    case 'taken back':
      return `“${applied.name}” was taken back.`;
    case 'nothing left':
      return 'No plan was left half done here.';
  }
}

function listed(lines: readonly string[]): string {
  return lines.map((line) => `  ${line}\n`).join('');
}
