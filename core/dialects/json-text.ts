import { call, number, type SqlExpression, string } from '../sql/index.js';

/** A text of JSON that is nested deeper is taken for none: whoever has such says by an expression what it becomes. */
const DEEPEST = 24;

/** What a string, and any other value, is put down to. Neither may stand in JSON as it is (RFC 8259, 7). */
const STRING = 1;
const VALUE = 2;
const EITHER = String.raw`[\x01\x02]`;

const STRINGS = String.raw`"(?:[^"\\\x01-\x1f]|\\["\\/bfnrt]|\\u(?!0000|[dD][89a-fA-F])[0-9a-fA-F]{4}|\\u[dD][89abAB][0-9a-fA-F]{2}\\u[dD][c-fC-F][0-9a-fA-F]{2})*"`;
const SCALARS = String.raw`-?(?:0|[1-9][0-9]*)(?:\.[0-9]+)?(?:[eE][+-]?[0-9]{1,4})?|true|false|null`;
const SPACE = String.raw`[ \t\n\r]+`;
const INNERMOST = String.raw`\[(?:${EITHER}(?:,${EITHER})*)?\]|\{(?:\x01:${EITHER}(?:,\x01:${EITHER})*)?\}`;

/**
 * Whether a text is JSON (RFC 8259) that a column of JSON takes, as PostgreSQL 15 can be asked without an error: its strings and
 * scalars are put down to a sign each, and what is innermost to one, until one is left.
 */
export function isJsonText(text: SqlExpression): SqlExpression {
  const put = (within: SqlExpression, pattern: string, sign: number | null) =>
    call('regexp_replace', within, string(pattern), sign === null ? string('') : call('chr', number(sign)), string('g'));
  let left = put(put(put(text, STRINGS, STRING), SCALARS, VALUE), SPACE, null);
  for (let depth = 0; depth < DEEPEST; depth++) left = put(left, INNERMOST, VALUE);
  return { kind: 'binary', operator: 'and', left: matches(text, `^[^\\x01\\x02]*$`), right: matches(left, `^${EITHER}$`) };
}

function matches(text: SqlExpression, pattern: string): SqlExpression {
  return { kind: 'is null', operand: call('regexp_match', text, string(pattern)), negated: true };
}
