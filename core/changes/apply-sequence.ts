import type { Dialect } from '../dialects/index.js';
import {
  type Applied,
  type ApplyRequest,
  type ApplyWork,
  differences,
  notedAs,
  only,
  schemaNow,
  withoutTexts,
} from './apply-plan.js';
import { HISTORY_TABLE, historyTable, noting, notingUndone } from './history.js';
import {
  canTakeBack,
  JOURNAL_ENDED,
  JOURNAL_QUERY,
  JOURNAL_TABLE,
  type Journal,
  journalAt,
  journalBegun,
  journalTable,
  readJournal,
} from './journal.js';

/** A plan that was left half done, and what is to become of it. */
export type Settling = 'finish' | 'take back';

/**
 * Carries a plan out where definitions commit by themselves: each statement is noted before the next is begun, so that whoever comes
 * after a crash knows how far it is. What cannot be carried out for the rows' sake is found before a table in use is touched.
 */
export function* applySequence(dialect: Dialect, request: ApplyRequest): ApplyWork<Applied> {
  const left = yield* journalNow();
  if (left !== null) return leftOf(left);
  const differs = differing(dialect, request);
  const moved = differs(request.seen, yield* schemaNow());
  if (moved.length > 0) return { kind: 'moved', differs: moved };
  yield { kind: 'define', sql: historyTable(dialect), values: [] };
  yield { kind: 'define', sql: journalTable(dialect), values: [] };
  yield { kind: 'rows', ...journalBegun(request) };
  return yield* goOn(dialect, request, 0);
}

/** Finishes a plan that was left half done, or takes it back. Null where none was. */
export function* settle(dialect: Dialect, way: Settling): ApplyWork<Applied | null> {
  const left = yield* journalNow();
  if (left === null) return null;
  if (way === 'take back') {
    if (!canTakeBack(left)) return leftOf(left);
    yield* takeBack(left);
    return { kind: 'taken back', name: left.request.noted.name };
  }
  if (left.way === 'back') return leftOf(left);
  return yield* goOn(dialect, left.request, left.done, true);
}

/** Takes back what was done of a plan that cannot be carried on; whether it could be. */
export function* takenBack(): ApplyWork<boolean> {
  const left = yield* journalNow();
  if (left === null) return true;
  if (!canTakeBack(left)) return false;
  yield* takeBack(left);
  return true;
}

/** How far a plan is that was left half done; null where none was. */
export function* journalNow(): ApplyWork<Journal | null> {
  const { schema } = yield { kind: 'schema' };
  if (schema?.tables.some(({ name }) => name.name === JOURNAL_TABLE) !== true) return null;
  const { rows } = yield { kind: 'read', sql: JOURNAL_QUERY };
  return readJournal(rows);
}

export function leftOf(journal: Journal): Extract<Applied, { kind: 'left' }> {
  const { request, done } = journal;
  return {
    kind: 'left',
    name: request.noted.name,
    done,
    of: request.operations.length,
    canFinish: journal.way === 'forth',
    canTakeBack: canTakeBack(journal),
  };
}

function* goOn(dialect: Dialect, request: ApplyRequest, from: number, isUnsure = false): ApplyWork<Applied> {
  const { operations, wished, noted } = request;
  const steps: { milliseconds: number; rows: number }[] = operations.slice(0, from).map(() => ({ milliseconds: 0, rows: 0 }));
  for (const [at, { sql, kind, what, table, done }] of operations.entries()) {
    if (at < from) continue;
    yield { kind: 'progress', progress: { done: at, of: operations.length, what } };
    switch (kind) {
      case 'check': {
        const { rows, milliseconds } = yield { kind: 'read', sql };
        if (Number(rows[0]?.[0] ?? 0) > 0) {
          yield* takenBack();
          return { kind: 'dangling', tables: [table ?? ''] };
        }
        steps.push({ milliseconds, rows: 0 });
        yield { kind: 'rows', ...journalAt(at + 1) };
        break;
      }
      case 'rows': {
        // Rows and how far the plan is are one transaction: neither is there without the other.
        const { changed, milliseconds } = yield { kind: 'together', statements: [{ sql, values: [] }, journalAt(at + 1)] };
        steps.push({ milliseconds, rows: changed });
        break;
      }
      case 'define': {
        const isDone = isUnsure && at === from && done !== undefined && (yield { kind: 'read', sql: done }).rows.length > 0;
        const { milliseconds } = isDone ? { milliseconds: 0 } : yield { kind: 'define', sql, values: [] };
        steps.push({ milliseconds, rows: 0 });
        yield { kind: 'rows', ...journalAt(at + 1) };
        break;
      }
    }
  }
  const unlike = differing(dialect, request)(only(yield* schemaNow(), wished), wished);
  const { rows: last } = yield { kind: 'read', sql: `select max(${dialect.quote('number')}) from ${HISTORY_TABLE}` };
  const number = Number(last[0]?.[0] ?? 0) + 1;
  const statements: { sql: string; values: readonly (string | number | null)[] }[] = [
    noting(dialect, notedAs(noted, number, steps)),
  ];
  if (noted.undoes !== null) statements.push(notingUndone(dialect, noted.undoes));
  yield { kind: 'together', statements: [...statements, JOURNAL_ENDED] };
  yield { kind: 'define', sql: `drop table if exists ${JOURNAL_TABLE}`, values: [] };
  // It is done and noted all the same, so that it can be taken back.
  return unlike.length > 0 ? { kind: 'unlike', differs: unlike, number } : { kind: 'applied', number, steps };
}

/** Takes back what was done, the last first; how far that is, is noted, so that it can be gone on with. */
function* takeBack({ request: { operations }, done }: Journal): ApplyWork<void> {
  yield { kind: 'rows', ...journalAt(done, 'back') };
  const entries = Array.from(operations.entries()).slice(0, done + 1);
  for (const [at, { back = [], kind, what }] of entries.toReversed()) {
    yield { kind: 'progress', progress: { done: done - at, of: done + 1, what: `taking back: ${what}` } };
    // Rows are noted within their transaction: those of the statement that comes next are not there, and what is there is somebody's.
    const isDone = at < done || kind !== 'rows';
    for (const sql of isDone ? back : []) yield { kind: 'define', sql, values: [] };
    yield { kind: 'rows', ...journalAt(at, 'back') };
  }
  yield { kind: 'rows', ...JOURNAL_ENDED };
  yield { kind: 'define', sql: `drop table if exists ${JOURNAL_TABLE}`, values: [] };
}

function differing(dialect: Dialect, { retold = false }: ApplyRequest) {
  return (one: ApplyRequest['seen'], other: ApplyRequest['seen']) =>
    retold ? differences(dialect, withoutTexts(one), withoutTexts(other)) : differences(dialect, one, other);
}
