import type { Dialect } from '../dialects/index.js';
import type { Computation } from '../load/index.js';
import { type ActorName, type CommandRows, expressionsOfCommand, type Model } from '../model/index.js';
import { type CommandInputs, Doing, Refused } from './doing.js';
import { findRows } from './find-rows.js';
import type { RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';

/** The rows that a command speaks of, or why they cannot be told. */
export type RowsMeant = { readonly ok: true; readonly rows: readonly RowAt[] } | { readonly ok: false; readonly message: string };

/** Finds the rows that a command speaks of, as somebody sees them, and does nothing to them. */
export function* rowsMeant(
  dialect: Dialect,
  model: Model,
  rows: CommandRows,
  inputs: CommandInputs,
  as: ActorName,
): Computation<RowsMeant> {
  const work = foundBy(new Doing(dialect, model, inputs), rows, as);
  try {
    let turn = work.next();
    while (turn.done !== true) {
      if (turn.value.kind !== 'ask') throw new Error('finding rows changes none');
      turn = work.next({ kind: 'asked', result: yield turn.value.statement });
    }
    return { ok: true, rows: turn.value.map(({ entity, key }) => ({ entity, key })) };
  } catch (error) {
    if (error instanceof Refused && error.why.kind === 'words') return { ok: false, message: error.why.message };
    throw error;
  }
}

function* foundBy(doing: Doing, rows: CommandRows, as: ActorName): CommandWork<readonly RowAt[]> {
  yield* doing.workAs(as, expressionsOfCommand({ kind: 'delete', rows }));
  return yield* findRows(doing, rows);
}
