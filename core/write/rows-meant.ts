import type { Dialect } from '../dialects/index.js';
import type { Computation } from '../load/index.js';
import type { CommandRows, Model } from '../model/index.js';
import { type CommandInputs, Doing, Refused } from './doing.js';
import { findRows } from './find-rows.js';
import type { RowAt } from './row-at.js';

/** The rows that a command speaks of, or why they cannot be told. */
export type RowsMeant = { readonly ok: true; readonly rows: readonly RowAt[] } | { readonly ok: false; readonly message: string };

/** Finds the rows that a command speaks of, and does nothing to them. */
export function* rowsMeant(dialect: Dialect, model: Model, rows: CommandRows, inputs: CommandInputs): Computation<RowsMeant> {
  const work = findRows(new Doing(dialect, model, inputs), rows);
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
