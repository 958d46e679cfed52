import { type Expression, queryOf } from '../core/model/index.js';
import { planQuery } from '../core/plan/index.js';
import type { Wire } from '../core/values/index.js';
import type { Walled } from '../core/walls/index.js';
import type { Outcome } from '../engines/index.js';
import { type LookedAt, preparedFor } from './looked-at.js';

/**
 * What expressions come to over one row, looked up outside of all walls; null where there is no such row.
 *
 * @param row a row by its key or a sample row's name
 */
export async function valuesOfRow(
  lookedAt: Omit<LookedAt, 'actor'>,
  entity: string,
  row: Expression,
  columns: readonly Expression[],
  { now, signal, me }: { readonly now?: string; readonly signal?: AbortSignal; readonly me?: Walled },
): Promise<Outcome<readonly Wire[] | null>> {
  const { span } = row;
  const { model } = lookedAt.design;
  const own: Expression = { kind: 'role', hops: [], type: { kind: 'row', entity }, span };
  const isIt: Expression = { kind: 'binary', operator: '=', left: own, right: row, type: { kind: 'boolean' }, span };
  const show = [own, ...columns].map((expression, at) => ({ name: `value_${at}`, expression, span }));
  const plan = planQuery(model, queryOf(entity, { where: [isIt], show }));
  const ready = preparedFor(lookedAt, plan, { ...(now === undefined ? {} : { now }), ...(me === undefined ? {} : { me }) });
  if (!ready.ok) return { ok: false, problem: { code: 'refused', message: ready.problems.join(' ') } };
  const call = { patient: true, ...(signal === undefined ? {} : { signal }) };
  const read = await lookedAt.engine.run('load', { prepared: ready.prepared, rowLimit: 2 }, call);
  if (!read.ok) return read;
  const [line] = JSON.parse(read.value.text) as readonly Readonly<Record<string, Wire>>[];
  return { ok: true, value: line === undefined ? null : columns.map((_, at) => line[`value_${at + 1}`] ?? null) };
}
