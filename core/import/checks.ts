import { type SqlToken, sqlName, sqlTokens } from '../sql/index.js';
import type { Names } from './names.js';

/** Words of SQL that mean the same in the notation's conditions. */
const SHARED = new Set([
  ...['and', 'or', 'not', 'in', 'is', 'null', 'between', 'like', 'case', 'when', 'then', 'else', 'end', 'true', 'false'],
  ...['lower', 'upper', 'length', 'trim', 'coalesce', 'abs', 'round', 'substr', 'replace'],
]);

const SYMBOLS = new Set(['(', ')', ',', '=', '<>', '<', '<=', '>', '>=', '+', '-', '*', '/', '%', '||']);

/** Functions stand close to what they take. */
const CALL = /\b(lower|upper|length|trim|coalesce|abs|round|substr|replace) \(/g;

/** A minus that is a number's sign: it stands behind a bracket, an operator or a word. */
const SIGN = /((?:^|[(]|[,=<>+*/%|-] |\b(?:between|and|or|not|in|when|then|else) ))- (?=\d)/g;

/**
 * A check's SQL as a condition of the notation, word by word; null where it says something that the notation does not.
 * Whether the two mean the same is not decided here: the schema that the text makes is compared with the original.
 *
 * @param fieldOf the field of a column as the text writes it; null where there is none
 */
export function conditionOf(sql: string, fieldOf: (column: string) => string | null): string | null {
  const words: string[] = [];
  for (const token of sqlTokens(sql)) {
    const word = wordOf(token, fieldOf);
    if (word === null) return null;
    words.push(word);
  }
  if (words.length === 0) return null;
  const spaced = words.join(' ').replaceAll('( ', '(').replaceAll(' )', ')').replaceAll(' ,', ',');
  return spaced.replace(SIGN, '$1-').replace(CALL, '$1(');
}

function wordOf(token: SqlToken, fieldOf: (column: string) => string | null): string | null {
  switch (token.kind) {
    case 'number':
      return /^\d+(\.\d+)?$/.test(token.text) ? token.text : null;
    case 'string':
      return /^'[^\n]*'$/.test(token.text) ? token.text : null;
    case 'symbol':
      if (token.text === '!=') return '<>';
      if (token.text === '==') return '=';
      return SYMBOLS.has(token.text) ? token.text : null;
    case 'word': {
      const field = fieldOf(token.text);
      if (field !== null) return field;
      const lower = token.text.toLowerCase();
      return SHARED.has(lower) ? lower : null;
    }
    case 'quoted':
      return fieldOf(sqlName(token));
    case 'parameter':
      return null;
  }
}

/** The columns that a check speaks of, each once, as they come. */
export function columnsOfCheck(sql: string, columns: readonly string[]): string[] {
  const found = new Set<string>();
  for (const token of sqlTokens(sql)) {
    if (token.kind !== 'word' && token.kind !== 'quoted') continue;
    const name = sqlName(token).toLowerCase();
    const column = columns.find((candidate) => candidate.toLowerCase() === name);
    if (column !== undefined) found.add(column);
  }
  return Array.from(found);
}

/** A name for a check that has none: after the columns that it is about. */
export function checkName(columns: readonly string[], names: Names): string {
  const about = columns.length === 0 ? 'row' : columns.map((column) => column.toLowerCase().replace(/\W+/g, '_')).join('_');
  return names.claim(`${about}_fits`, `${about}_is_valid`, `${about}_is_allowed`, `${about}_holds`);
}
