import Papa from 'papaparse';
import type { BrowseRequest } from '../core/browse/index.js';
import { type AnswerRow, type Cut, writtenSql } from '../core/load/index.js';
import { type Entity, type Expression, entityOf, type Load, queryOf } from '../core/model/index.js';
import { planQuery } from '../core/plan/index.js';
import { type ColumnUse, cellText, loadsFor, valueIn, writeUse } from '../core/row-files/index.js';
import type { Wire } from '../core/values/index.js';
import type { CallOptions, RowFile } from '../engines/index.js';
import { MOST_KEYS, type RowsFinding, type RowsRequest, readRequest, rowOrder } from './browse-rows.js';
import { type LookedAt, preparedFor } from './looked-at.js';

/** Rows that are to stand in a file. */
export interface TakeRowsOut {
  readonly rows: RowsRequest;
  /** What each column of the file is, in their order. */
  readonly columns: readonly ColumnUse[];
  readonly form: RowFile['form'];
  readonly delimiter: string;
  /** The text of CSV that stands for nothing. */
  readonly nothing: string;
}

export type TakenOut =
  | {
      readonly ok: true;
      readonly rows: number;
      /** So many texts are the same as what stands for nothing, and would come back as nothing. */
      readonly alike: number;
      /** The statement of the first rows, as a person would write it. */
      readonly sql: string;
    }
  | { readonly ok: false; readonly findings: readonly RowsFinding[]; readonly problems: readonly string[] };

/** So many rows are read at a time. */
const TOGETHER = 2000;
const NOWHERE = { start: 0, end: 0 };

/**
 * Writes rows as the lines of a file, some at a time. In the order of their key, unless another is asked for.
 *
 * @param write takes a piece of the file; it is waited for
 */
export async function takeRowsOut(
  lookedAt: LookedAt,
  { rows: wanted, columns, form, delimiter, nothing }: TakeRowsOut,
  write: (text: string) => Promise<void>,
  options: CallOptions = {},
): Promise<TakenOut> {
  const asked = readRequest(lookedAt, wanted);
  if (!asked.ok) return asked;
  const { model } = lookedAt.design;
  const names = columns.map(writeUse);
  const { name } = entityOf(model, wanted.entity);
  const told = { rows: 0, alike: 0, sql: '' };
  const line = (row: AnswerRow): string => {
    const values = columns.map((use) => valueIn(model, name, use, row));
    if (form === 'json lines')
      return `${JSON.stringify(Object.fromEntries(names.map((one, at) => [one, values[at] ?? null])))}\n`;
    const cells = values.map((value) => cellText(value, nothing));
    told.alike += cells.filter(({ text, isNothing }) => !isNothing && text === nothing).length;
    return `${csv(
      cells.map(({ text }) => text),
      delimiter,
    )}\r\n`;
  };
  if (form === 'csv') await write(`${csv(names, delimiter)}\r\n`);
  for await (const window of windows(lookedAt, wanted, asked.value, loadsFor(model, name, columns), options)) {
    if ('problem' in window) return { ok: false, findings: [], problems: [window.problem] };
    told.rows += window.rows.length;
    if (told.sql === '') told.sql = window.sql;
    await write(window.rows.map(line).join(''));
  }
  return { ok: true, ...told };
}

function csv(values: readonly string[], delimiter: string): string {
  // A line of one empty value would be an empty line, which is none.
  return values.length === 1 && values[0] === '' ? '""' : Papa.unparse([[...values]], { delimiter });
}

type Window = { readonly rows: readonly AnswerRow[]; readonly sql: string } | { readonly problem: string };

/** The rows, some at a time: each behind the last of those before it, by their key, or by the list of keys in their order. */
async function* windows(
  lookedAt: LookedAt,
  wanted: RowsRequest,
  request: BrowseRequest,
  loads: readonly Load[],
  options: CallOptions,
): AsyncGenerator<Window> {
  const entity = entityOf(lookedAt.design.model, request.entity);
  const [key, ...more] = entity.key.fields;
  if (request.orderBy.length > 0 || request.via !== null || key === undefined || more.length > 0 || entity.key.byRow) {
    yield* ordered(lookedAt, wanted, loads, options);
    return;
  }
  const field: Expression = { kind: 'field', hops: [], entity: entity.name, field: key.name, type: key.type, span: NOWHERE };
  let last: Wire = null;
  let together = TOGETHER;
  for (;;) {
    const behind: Expression[] =
      last === null ? [] : [binary('>', field, { kind: 'value', value: last, type: key.type, span: NOWHERE })];
    const query = queryOf(entity.name, {
      where: [...request.where, ...behind],
      orderBy: [{ expression: field, descending: false }],
      limit: { kind: 'value', value: together, type: { kind: 'integer' }, span: NOWHERE },
      loads,
    });
    const read = await readWindow(lookedAt, planQuery(lookedAt.design.model, query), together, options);
    if ('problem' in read) {
      yield read;
      return;
    }
    const { rows, sql, cut } = read;
    if (cut && rows.length === 0) {
      yield { problem: tooLarge(entity) };
      return;
    }
    if (rows.length > 0) yield { rows, sql };
    if (rows.length < together && !cut) return;
    last = (rows.at(-1)?.[key.name] ?? null) as Wire;
    // What did not fit is asked for again, with fewer beside it.
    if (cut) together = Math.max(1, Math.floor(together / 2));
  }
}

async function* ordered(
  lookedAt: LookedAt,
  request: RowsRequest,
  loads: readonly Load[],
  options: CallOptions,
): AsyncGenerator<Window> {
  const { design, engine } = lookedAt;
  const entity = entityOf(design.model, request.entity);
  const found = await rowOrder(lookedAt, request, options);
  if (!found.ok) {
    yield { problem: found.problems.join(' ') };
    return;
  }
  if (found.value.cut) {
    yield {
      problem: `These are more than ${MOST_KEYS.toLocaleString('en')} rows, which is too many for an order of one’s own. Take them out in the order of their key.`,
    };
    return;
  }
  const plan = preparedFor(lookedAt, planQuery(design.model, queryOf(entity.name, { loads }), { byKeys: true }));
  if (!plan.ok) {
    yield { problem: plan.problems.join(' ') };
    return;
  }
  const { keys } = found.value;
  const sql = writtenSql(plan.prepared, design.dialect);
  let together = TOGETHER;
  for (let from = 0; from < keys.length; ) {
    const some = keys.slice(from, from + together);
    const input = {
      prepared: plan.prepared,
      keys: some,
      keyType: entity.key.type,
      keyName: entity.key.name,
      rowLimit: some.length,
      pairs: null,
    };
    const read = await engine.run('page', input, options);
    if (!read.ok) {
      yield { problem: read.problem.message };
      return;
    }
    const rows = JSON.parse(read.value.text) as AnswerRow[];
    if (read.value.cut) {
      if (together === 1) {
        yield { problem: tooLarge(entity) };
        return;
      }
      together = Math.max(1, Math.floor(together / 4));
      continue;
    }
    if (rows.length > 0) yield { rows, sql };
    from += some.length;
  }
}

async function readWindow(
  lookedAt: LookedAt,
  plan: Parameters<typeof preparedFor>[1],
  most: number,
  options: CallOptions,
): Promise<{ readonly rows: readonly AnswerRow[]; readonly sql: string; readonly cut: boolean } | { readonly problem: string }> {
  const ready = preparedFor(lookedAt, plan);
  if (!ready.ok) return { problem: ready.problems.join(' ') };
  const read = await lookedAt.engine.run('load', { prepared: ready.prepared, rowLimit: most, explained: 'not' }, options);
  if (!read.ok) return { problem: read.problem.message };
  const { text, cuts } = read.value;
  const cut = cuts.some(({ size }: Cut) => size !== null);
  return { rows: JSON.parse(text) as AnswerRow[], sql: writtenSql(ready.prepared, lookedAt.design.dialect), cut };
}

function tooLarge({ name }: Entity): string {
  return `A row of ${name} is too large for a line. Leave its largest column out.`;
}

function binary(operator: '>', left: Expression, right: Expression): Expression {
  return { kind: 'binary', operator, left, right, type: { kind: 'boolean' }, span: NOWHERE };
}
