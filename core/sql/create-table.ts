import { type SqlToken, sqlName, sqlTokens } from './lexer.js';

/** A constraint as a CREATE TABLE states it, on the table or on one column. */
export interface TableConstraint {
  readonly kind: 'check' | 'primary key' | 'unique' | 'foreign key';
  /** As the statement names it; null where it has no name. */
  readonly name: string | null;
  /** The column that it stands behind; null where it stands on its own. */
  readonly column: string | null;
  /** For a check: the text between its brackets. */
  readonly expression: string;
  /** For a key: its columns. */
  readonly columns: readonly string[];
  /** The whole constraint as the table would state it, with its words as they are. */
  readonly text: string;
  /** Nothing is said beyond columns and the rules on delete and update: no conflict clause, order, collation, match. */
  readonly plain: boolean;
  /** Of a foreign key: looked at when the transaction ends. */
  readonly deferred: boolean;
}

/** A column as its definition states it. */
export interface ColumnText {
  readonly name: string;
  readonly type: string;
  /** The words of NOT NULL, with what is to happen on a conflict; null where there are none. */
  readonly notNull: string | null;
  readonly default: string | null;
}

/** The parts of a table that only its CREATE TABLE tells, and no catalogue. */
export interface CreateTable {
  readonly columns: readonly ColumnText[];
  readonly constraints: readonly TableConstraint[];
  readonly autoincrement: boolean;
  /** The words behind the bracket, as `WITHOUT ROWID`. */
  readonly options: readonly string[];
  /** The collation that a column states, by the column's name. */
  readonly collations: ReadonlyMap<string, string>;
  readonly generated: ReadonlyMap<string, { readonly sql: string; readonly stored: boolean }>;
  /** A column says more than its parts can hold, as NOT NULL ON CONFLICT IGNORE. */
  readonly unusual: boolean;
}

const COLUMN_CONSTRAINTS = ['constraint', 'primary', 'not', 'null', 'unique', 'check', 'default', 'collate', 'references'];
const TABLE_CONSTRAINTS = ['constraint', 'primary', 'unique', 'check', 'foreign'];

/**
 * Reads SQLite's CREATE TABLE for what the catalogue's pragmas leave out: names of constraints, checks,
 * autoincrement, collations, generated columns (https://www.sqlite.org/lang_createtable.html). What it does not know
 * it passes over.
 */
export function readCreateTable(sql: string): CreateTable {
  const tokens = sqlTokens(sql);
  const open = tokens.findIndex((token) => token.text === '(');
  const reading: Reading = {
    sql,
    columns: [],
    constraints: [],
    collations: new Map(),
    generated: new Map(),
    autoincrement: false,
    unusual: false,
  };
  if (open < 0) return { ...reading, options: [] };
  const { parts, end } = split(tokens, open);
  for (const part of parts) {
    const first = part[0];
    if (first === undefined) continue;
    const leads = first.kind === 'word' && TABLE_CONSTRAINTS.includes(first.text.toLowerCase());
    if (leads) readTableConstraint(reading, part);
    else readColumn(reading, part, sqlName(first));
  }
  return { ...reading, options: optionsOf(tokens.slice(end)) };
}

interface Reading {
  readonly sql: string;
  readonly columns: ColumnText[];
  readonly constraints: TableConstraint[];
  readonly collations: Map<string, string>;
  readonly generated: Map<string, { sql: string; stored: boolean }>;
  autoincrement: boolean;
  unusual: boolean;
}

function optionsOf(tokens: readonly SqlToken[]): string[] {
  const options: string[][] = [[]];
  for (const token of tokens) {
    if (token.text === ';') break;
    if (token.text === ',') options.push([]);
    else options.at(-1)?.push(token.text);
  }
  return options.filter((words) => words.length > 0).map((words) => words.join(' '));
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
    if (token.text === ',' && token.kind === 'symbol' && depth === 1) parts.push([]);
    else parts.at(-1)?.push(token);
  }
  return { parts, end: tokens.length };
}

/** Words of one part, read from left to right; a bracket is passed over whole. */
class Words {
  private at = 0;

  constructor(
    private readonly sql: string,
    private readonly part: readonly SqlToken[],
  ) {}

  get here(): SqlToken | undefined {
    return this.part[this.at];
  }

  get word(): string {
    return this.here?.kind === 'word' ? this.here.text.toLowerCase() : '';
  }

  /** Takes these words where they stand here. */
  takes(...words: readonly string[]): boolean {
    const found = words.every((word, index) => this.part[this.at + index]?.text.toLowerCase() === word);
    if (found) this.at += words.length;
    return found;
  }

  /** Takes one token, or a bracket with all that it holds. */
  pass(): SqlToken | undefined {
    const token = this.here;
    if (token?.text === '(' && token.kind === 'symbol') this.at = closing(this.part, this.at);
    this.at += 1;
    return token;
  }

  /** The text between the brackets that open here; null where none does. */
  bracket(): { text: string; tokens: readonly SqlToken[] } | null {
    const open = this.here;
    if (open?.text !== '(') return null;
    const from = this.at + 1;
    this.pass();
    const last = this.part[this.at - 1];
    return { text: this.sql.slice(open.end, last?.start).trim(), tokens: this.part.slice(from, this.at - 1) };
  }

  /** From the given place to the token taken last. */
  since(start: number): string {
    return this.sql.slice(start, this.part[this.at - 1]?.end ?? start).trim();
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

function readColumn(reading: Reading, part: readonly SqlToken[], column: string): void {
  const words = new Words(reading.sql, part);
  const first = words.pass();
  const typeStart = words.here?.start ?? first?.end ?? 0;
  while (words.here !== undefined && !startsConstraint(words)) words.pass();
  const type = words.since(typeStart);
  let notNull: string | null = null;
  let byDefault: string | null = null;
  let name: string | null = null;
  while (words.here !== undefined) {
    const start = words.here.start;
    if (words.takes('constraint')) {
      const token = words.pass();
      name = token === undefined ? null : sqlName(token);
      continue;
    }
    if (words.takes('collate')) {
      const token = words.pass();
      if (token !== undefined) reading.collations.set(column, sqlName(token));
    } else if (words.takes('default')) {
      const from = words.here?.start ?? 0;
      if (words.here?.text === '+' || words.here?.text === '-') words.pass();
      words.pass();
      byDefault = words.since(from);
    } else if (words.takes('not', 'null')) {
      if (takesConflict(words)) reading.unusual = true;
      notNull = words.since(start);
    } else if (words.takes('null')) {
      if (takesConflict(words)) reading.unusual = true;
    } else if (words.takes('generated', 'always', 'as') || words.takes('as')) {
      const sql = words.bracket();
      if (sql !== null) reading.generated.set(column, { sql: sql.text, stored: words.takes('stored') });
      words.takes('virtual');
    } else if (words.takes('primary', 'key')) {
      const ordered = words.takes('asc') || words.takes('desc');
      const conflict = takesConflict(words);
      if (words.takes('autoincrement')) reading.autoincrement = true;
      if (ordered || conflict) reading.unusual = true;
      const text = `${named(name)}${words.since(start)}`;
      add(reading, { kind: 'primary key', name, column, columns: [column], text, plain: !ordered && !conflict });
    } else if (words.takes('unique')) {
      const conflict = takesConflict(words);
      const text = `${named(name)}UNIQUE (${quoted(column)})${words.since(start).slice('unique'.length)}`;
      add(reading, { kind: 'unique', name, column, columns: [column], text, plain: !conflict });
    } else if (words.takes('check')) {
      const expression = words.bracket()?.text ?? '';
      const plain = !takesConflict(words);
      add(reading, { kind: 'check', name, column, expression, text: `${named(name)}${words.since(start)}`, plain });
    } else if (words.takes('references')) {
      const { plain, deferred } = passReferences(words);
      const text = `${named(name)}FOREIGN KEY (${quoted(column)}) ${words.since(start)}`;
      add(reading, { kind: 'foreign key', name, column, columns: [column], text, plain, deferred });
    } else {
      words.pass();
    }
    name = null;
  }
  reading.columns.push({ name: column, type, notNull, default: byDefault });
}

function startsConstraint(words: Words): boolean {
  return COLUMN_CONSTRAINTS.includes(words.word) || words.word === 'generated' || words.word === 'as';
}

function readTableConstraint(reading: Reading, part: readonly SqlToken[]): void {
  const words = new Words(reading.sql, part);
  const start = part[0]?.start ?? 0;
  let name: string | null = null;
  if (words.takes('constraint')) {
    const token = words.pass();
    name = token === undefined ? null : sqlName(token);
  }
  const text = () => words.since(start);
  if (words.takes('primary', 'key')) {
    const list = words.bracket()?.tokens ?? [];
    if (list.some((token) => token.kind === 'word' && token.text.toLowerCase() === 'autoincrement')) reading.autoincrement = true;
    const columns = columnsIn(list);
    const plain = isPlainList(list) && !takesConflict(words);
    if (!plain) reading.unusual = true;
    add(reading, { kind: 'primary key', name, column: null, columns, text: text(), plain });
  } else if (words.takes('unique')) {
    const list = words.bracket()?.tokens ?? [];
    const plain = isPlainList(list) && !takesConflict(words);
    add(reading, { kind: 'unique', name, column: null, columns: columnsIn(list), text: text(), plain });
  } else if (words.takes('check')) {
    const expression = words.bracket()?.text ?? '';
    const plain = !takesConflict(words);
    add(reading, { kind: 'check', name, column: null, expression, text: text(), plain });
  } else if (words.takes('foreign', 'key')) {
    const columns = columnsIn(words.bracket()?.tokens ?? []);
    words.takes('references');
    const { plain, deferred } = passReferences(words);
    add(reading, { kind: 'foreign key', name, column: null, columns, text: text(), plain, deferred });
  }
}

function add(
  reading: Reading,
  constraint: Partial<TableConstraint> & Pick<TableConstraint, 'kind' | 'name' | 'column' | 'text' | 'plain'>,
) {
  reading.constraints.push({ expression: '', columns: [], deferred: false, ...constraint });
}

function takesConflict(words: Words): boolean {
  if (!words.takes('on', 'conflict')) return false;
  words.pass();
  return true;
}

/** Passes over a references clause, whose table is next; tells whether it says more than columns and rules. */
function passReferences(words: Words): { plain: boolean; deferred: boolean } {
  words.pass();
  words.bracket();
  let plain = true;
  let deferred = false;
  for (;;) {
    if (words.takes('on')) {
      words.pass();
      if (!words.takes('set', 'null') && !words.takes('set', 'default') && !words.takes('no', 'action')) words.pass();
    } else if (words.takes('match')) {
      words.pass();
      plain = false;
    } else if (words.takes('not', 'deferrable')) {
      if (words.takes('initially')) words.pass();
      plain = false;
    } else if (words.takes('deferrable')) {
      deferred = words.takes('initially', 'deferred');
      if (!deferred) {
        if (words.takes('initially')) words.pass();
        plain = false;
      }
    } else return { plain, deferred };
  }
}

function isPlainList(list: readonly SqlToken[]): boolean {
  return list.every((token, index) => index % 2 === 0 || token.text === ',');
}

function columnsIn(list: readonly SqlToken[]): string[] {
  return list.filter((_, index) => index === 0 || list[index - 1]?.text === ',').map(sqlName);
}

function named(name: string | null): string {
  return name === null ? '' : `CONSTRAINT ${quoted(name)} `;
}

function quoted(name: string): string {
  return `"${name.replaceAll('"', '""')}"`;
}
