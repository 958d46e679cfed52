import { type Expression, entityOf, queryOf, readsRow, type ShownColumn, type WrittenValue } from '../model/index.js';
import { joinKey, type Wire } from '../values/index.js';
import type { Doing } from './doing.js';
import type { RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';

/** What values of a command come to in one row: those that read the row, or what stands behind it. */
export type Computed = ReadonlyMap<WrittenValue, Wire>;

/** So many rows are asked at a time. */
const TOGETHER = 2000;
const NOWHERE = { start: 0, end: 0 };

/**
 * The values that read rows, as the engine computes them: with all the digits of a decimal, and over whatever stands behind the rows.
 *
 * @param entity what the rows are, or a base of it: the one that the values speak of
 * @returns by the text of each row's key; nothing where no value reads a row
 */
export function* computedFor(
  doing: Doing,
  entity: string,
  rows: readonly RowAt[],
  values: readonly WrittenValue[],
): CommandWork<ReadonlyMap<string, Computed>> {
  const reading = values.flatMap((value) => (value.kind === 'field' && readsRow(value.expression) ? [value] : []));
  const found = new Map<string, Computed>();
  if (reading.length === 0 || rows.length === 0) return found;
  const { key } = entityOf(doing.model, entity);
  const keys = key.fields.map(({ name, type }, at): ShownColumn => {
    const expression: Expression = { kind: 'field', hops: [], entity, field: name, type, span: NOWHERE };
    return { name: `key ${at}`, expression, span: NOWHERE };
  });
  const asked = reading.map(({ expression, span }, at): ShownColumn => ({ name: `value ${at}`, expression, span }));
  const query = queryOf(entity, { show: [...keys, ...asked] });
  for (let from = 0; from < rows.length; from += TOGETHER) {
    const some = rows.slice(from, from + TOGETHER).map((row) => row.key);
    const answer = yield* doing.ask(query, { byKeys: true, titled: false }, doing.dialect.values.bindKeys(key.type, some));
    for (const line of answer) {
      const own = joinKey(
        key.type,
        keys.map(({ name }) => (line[name] ?? null) as Wire),
      );
      found.set(String(own), new Map(reading.map((value, at) => [value, (line[`value ${at}`] ?? null) as Wire])));
    }
  }
  return found;
}
