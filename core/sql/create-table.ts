import { type SqlToken, sqlName, sqlTokens } from './lexer.js';

/** A constraint as a CREATE TABLE states it, on the table or on one column. */
export interface TableConstraint {
  readonly kind: 'check' | 'primary key' | 'unique' | 'foreign key';
  /** As the statement names it; null where it has no name. */
  readonly name: string | null;
  /** The column that it stands behind; null where it stands on its own. */
  readonly column: string | null;
  /** For a check: the text between its brackets. For a key: its columns. */
  readonly expression: string;
  readonly columns: readonly string[];
}

/** What only the text of a CREATE TABLE tells, beside the catalogue. */
export interface CreateTable {
  readonly constraints: readonly TableConstraint[];
  readonly autoincrement: boolean;
  readonly withoutRowid: boolean;
  readonly strict: boolean;
  /** The collation that a column states, by the column's name. */
  readonly collations: ReadonlyMap<string, string>;
}

/**
 * Reads SQLite's CREATE TABLE for what the catalogue's pragmas leave out: names of constraints, checks,
 * autoincrement, collations (https://www.sqlite.org/lang_createtable.html). What it does not know it passes over.
 */
export function readCreateTable(sql: string): CreateTable {
  const tokens = sqlTokens(sql);
  const open = tokens.findIndex((token) => token.text === '(');
  const constraints: TableConstraint[] = [];
  const collations = new Map<string, string>();
  let autoincrement = false;
  if (open < 0) return { constraints, autoincrement, withoutRowid: false, strict: false, collations };
  const { parts, end } = split(tokens, open);
  const tail = tokens.slice(end).map((token) => token.text.toLowerCase());
  for (const part of parts) {
    const first = part[0];
    if (first === undefined) continue;
    const leads =
      first.kind === 'word' && ['constraint', 'primary', 'unique', 'check', 'foreign'].includes(first.text.toLowerCase());
    readConstraints(sql, part, leads ? null : sqlName(first), constraints);
    part.forEach((token, index) => {
      const word = token.kind === 'word' ? token.text.toLowerCase() : '';
      if (word === 'autoincrement') autoincrement = true;
      const next = part[index + 1];
      if (word === 'collate' && next !== undefined && !leads && depthAt(part, index) === 0)
        collations.set(sqlName(first), sqlName(next));
    });
  }
  return { constraints, autoincrement, withoutRowid: tail.includes('without'), strict: tail.includes('strict'), collations };
}

function depthAt(part: readonly SqlToken[], index: number): number {
  let depth = 0;
  for (const token of part.slice(0, index)) depth += token.text === '(' ? 1 : token.text === ')' ? -1 : 0;
  return depth;
}

function split(tokens: readonly SqlToken[], open: number): { parts: SqlToken[][]; end: number } {
  const parts: SqlToken[][] = [[]];
  let depth = 0;
  for (let index = open; index < tokens.length; index++) {
    const token = tokens[index];
    if (token === undefined) break;
    if (token.text === '(' && token.kind === 'symbol') {
      depth += 1;
      if (depth === 1) continue;
    }
    if (token.text === ')' && token.kind === 'symbol') {
      depth -= 1;
      if (depth === 0) return { parts, end: index + 1 };
    }
    if (token.text === ',' && depth === 1) parts.push([]);
    else parts.at(-1)?.push(token);
  }
  return { parts, end: tokens.length };
}

function readConstraints(sql: string, part: readonly SqlToken[], column: string | null, constraints: TableConstraint[]): void {
  let name: string | null = null;
  for (let index = 0; index < part.length; index++) {
    const token = part[index];
    if (token === undefined || token.kind === 'string') continue;
    if (token.kind === 'symbol' && token.text === '(') {
      index = closing(part, index);
      continue;
    }
    const word = token.kind === 'word' && !(index === 0 && column !== null) ? token.text.toLowerCase() : '';
    const next = part[index + 1];
    if (word === 'constraint' && next !== undefined) {
      name = sqlName(next);
      index += 1;
    } else if (word === 'check' && next?.text === '(') {
      const end = closing(part, index + 1);
      const last = part[end];
      constraints.push({ kind: 'check', name, column, expression: sql.slice(next.end, last?.start).trim(), columns: [] });
      name = null;
      index = end;
    } else if (word === 'primary' || word === 'foreign' || word === 'unique') {
      const kind = word === 'unique' ? 'unique' : (`${word} key` as const);
      const at = word === 'unique' ? index + 1 : index + 2;
      const columns = part[at]?.text === '(' ? columnsBetween(part, at) : column === null ? [] : [column];
      constraints.push({ kind, name, column, expression: '', columns });
      name = null;
    } else if (word === 'references' && column !== null) {
      constraints.push({ kind: 'foreign key', name, column, expression: '', columns: [column] });
      name = null;
    }
  }
}

function closing(part: readonly SqlToken[], open: number): number {
  let depth = 0;
  for (let index = open; index < part.length; index++) {
    const token = part[index];
    if (token?.kind !== 'symbol') continue;
    if (token.text === '(') depth += 1;
    if (token.text === ')') depth -= 1;
    if (depth === 0) return index;
  }
  return part.length - 1;
}

function columnsBetween(part: readonly SqlToken[], open: number): string[] {
  const inner = part.slice(open + 1, closing(part, open));
  return inner.filter((_, index) => index === 0 || inner[index - 1]?.text === ',').map(sqlName);
}
