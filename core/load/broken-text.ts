import type { Dialect } from '../dialects/index.js';
import { call, column, type Query } from '../sql/index.js';
import type { Wire } from '../values/index.js';
import { columnArrays } from './by-columns.js';
import type { Output } from './compile/index.js';
import type { FetchOptions } from './statement.js';

/** What a decoder puts where bytes are no UTF-8. */
const REPLACED = '\ufffd';

/** The columns in which a text may have been changed on its way, since its bytes are no UTF-8. */
export function suspects(columns: readonly (readonly Wire[])[]): number[] {
  return columns.flatMap((cells, index) =>
    cells.some((cell) => typeof cell === 'string' && cell.includes(REPLACED)) ? [index] : [],
  );
}

/** The same select again, for the bytes of those columns alone. */
export function bytesOf(
  dialect: Dialect,
  query: Query,
  outputs: readonly Output[],
  wanted: readonly number[],
  options: FetchOptions,
): string {
  const columns = wanted.map((index) =>
    call('lower', call('hex', { kind: 'cast', operand: column('fetched', outputs[index]?.as ?? ''), type: 'blob' })),
  );
  return columnArrays(dialect, query, outputs, columns, options);
}

/** Puts the bytes where a text's bytes are no UTF-8: nothing arrives changed without a word. */
export function markBroken(cells: Wire[], bytes: readonly unknown[]): void {
  for (const [index, cell] of cells.entries()) {
    const hex = bytes[index];
    if (typeof cell === 'string' && cell.includes(REPLACED) && typeof hex === 'string' && !isUtf8(hex))
      cells[index] = { asStored: { bytes: hex } };
  }
}

/** Are these bytes, in hexadecimal, well-formed UTF-8 (RFC 3629, section 4)? */
export function isUtf8(hex: string): boolean {
  const byteAt = (index: number) => Number.parseInt(hex.slice(index * 2, index * 2 + 2), 16);
  const count = hex.length / 2;
  for (let index = 0; index < count; ) {
    const first = byteAt(index);
    const length =
      first < 0x80
        ? 1
        : first >= 0xc2 && first < 0xe0
          ? 2
          : first >= 0xe0 && first < 0xf0
            ? 3
            : first >= 0xf0 && first < 0xf5
              ? 4
              : 0;
    if (length === 0 || index + length > count) return false;
    for (let next = 1; next < length; next++) if ((byteAt(index + next) & 0xc0) !== 0x80) return false;
    const second = length > 1 ? byteAt(index + 1) : 0;
    const tooShort = (first === 0xe0 && second < 0xa0) || (first === 0xf0 && second < 0x90);
    const noCharacter = (first === 0xed && second > 0x9f) || (first === 0xf4 && second > 0x8f);
    if (tooShort || noCharacter) return false;
    index += length;
  }
  return true;
}
