import { readExpression, readLiteral, readOrder, readPath } from './expressions.js';
import type { Span } from './finding.js';
import { TokenKind } from './lexer.js';
import { nearest } from './nearest.js';
import { list, type Reader } from './reader.js';
import type {
  DialectName,
  EntityLine,
  KeptLine,
  KindsStorage,
  Modifier,
  Name,
  PhysicalName,
  StoredTypeLine,
  Tail,
  Text,
  TypeSyntax,
} from './syntax.js';

const PLAIN_TYPES = ['integer', 'bigint', 'real', 'boolean', 'date', 'time', 'timestamp', 'uuid', 'json', 'bytes'] as const;

/** Every word that names a type, for completion and "did you mean". */
export const TYPE_WORDS: readonly string[] = [...PLAIN_TYPES, 'decimal', 'text', 'sql'];

/** The modifiers that a field may have. */
export const MODIFIER_WORDS: readonly string[] = [
  'key',
  'optional',
  'unique',
  'default',
  'in',
  'column',
  'hidden',
  'internal',
  'fixed',
  'title',
  'collate',
  'stored',
  'generated',
  'never',
  'not',
  'was',
  'message',
  'note',
];

/** The words that begin a line of an entity; a field of such a name is quoted. */
export const ENTITY_LINE_WORDS: readonly string[] = [
  'uses',
  'key',
  'unique',
  'index',
  'check',
  'rule',
  'shown',
  'order',
  'always',
  'note',
  'kept',
  'kinds',
];

export const DIALECTS = ['sqlite', 'postgres', 'mariadb'] as const satisfies readonly DialectName[];

/** Reads one line of an entity, mixin or pivot. */
export function readEntityLine(reader: Reader): EntityLine {
  const from = reader.here;
  const word = reader.kind() === TokenKind.word ? reader.word() : '';
  const line = readers[word];
  if (line !== undefined && TYPE_WORDS.includes(reader.word(1))) {
    reader.fail(`A line that begins with ${word} is no field. A field of that name is written "${word}".`);
  }
  if (line !== undefined && !reader.sees('=', 1)) return line(reader, from);
  return readField(reader, from);
}

const readers: Readonly<Record<string, (reader: Reader, from: Span) => EntityLine>> = Object.assign(Object.create(null), {
  uses: (reader: Reader, from: Span): EntityLine => {
    reader.takes('uses');
    return { kind: 'uses', mixins: list(reader, () => reader.entity('a mixin')), span: reader.since(from) };
  },
  key: (reader: Reader, from: Span): EntityLine => {
    reader.takes('key');
    const fields = readNames(reader);
    return { kind: 'key', fields, tail: readTail(reader), span: reader.since(from) };
  },
  unique: (reader: Reader, from: Span) => readColumns(reader, from, 'unique'),
  index: (reader: Reader, from: Span) => readColumns(reader, from, 'index'),
  check: (reader: Reader, from: Span) => readCondition(reader, from, 'check'),
  rule: (reader: Reader, from: Span) => readCondition(reader, from, 'rule'),
  shown: (reader: Reader, from: Span): EntityLine => {
    reader.takes('shown');
    reader.expects('as', 'after shown');
    return { kind: 'shown as', expression: readExpression(reader), span: reader.since(from) };
  },
  order: (reader: Reader, from: Span): EntityLine => {
    reader.takes('order');
    reader.expects('by', 'after order');
    return { kind: 'order by', terms: readOrder(reader), span: reader.since(from) };
  },
  always: (reader: Reader, from: Span): EntityLine => {
    reader.takes('always');
    reader.expects('load', 'after always');
    const path = readPath(reader);
    return { kind: 'always load', path, once: reader.takes('once'), span: reader.since(from) };
  },
  note: (reader: Reader, from: Span): EntityLine => {
    reader.takes('note');
    return { kind: 'note', text: reader.text('the note'), span: reader.since(from) };
  },
  kept: (reader: Reader): EntityLine => readKept(reader),
  kinds: (reader: Reader, from: Span): EntityLine => {
    reader.takes('kinds');
    reader.expects('in', 'after kinds');
    return { kind: 'kinds', storage: readKinds(reader), span: reader.since(from) };
  },
});

function readField(reader: Reader, from: Span): EntityLine {
  const keyword = reader.word();
  const name = reader.name('a field or a line of an entity');
  if (reader.takes('=')) {
    const expression = readExpression(reader);
    return { kind: 'derived', name, expression, note: readNote(reader), span: reader.since(from) };
  }
  const type = readType(reader, `a type after ${keyword}`);
  const modifiers: Modifier[] = [];
  let message: Text | null = null;
  let note: Text | null = null;
  while (!reader.done) {
    reader.takes(',');
    if (reader.takes('message')) message = reader.text('the message');
    else if (reader.takes('note')) note = reader.text('the note');
    else {
      const modifier = readModifier(reader);
      if (modifier !== null) modifiers.push(modifier);
    }
  }
  return { kind: 'field', name, type, modifiers, tail: { message, note, named: null, asIndex: null }, span: reader.since(from) };
}

function readModifier(reader: Reader): Modifier | null {
  const from = reader.here;
  for (const kind of ['key', 'optional', 'unique', 'hidden', 'internal', 'fixed'] as const) {
    if (reader.takes(kind)) return { kind, span: from };
  }
  if (reader.takes('on', 'update', 'now')) return { kind: 'on update now', span: reader.since(from) };
  if (reader.takes('not', 'null')) return { kind: 'not null', span: reader.since(from) };
  if (reader.takes('never', 'reused')) return { kind: 'never reused', span: reader.since(from) };
  if (reader.takes('default')) return { kind: 'default', value: readDefault(reader), span: reader.since(from) };
  if (reader.takes('stored', 'as'))
    return { kind: 'stored as', declaration: reader.text('the declared type'), span: reader.since(from) };
  if (reader.takes('collate')) {
    return { kind: 'collate', name: readAnyName(reader, 'a collation'), span: reader.since(from) };
  }
  if (reader.takes('generated', 'as')) {
    const sql = reader.text('the SQL that gives the value');
    // “stored as” is another modifier.
    const stored = !reader.sees('as', 1) && reader.takes('stored');
    return { kind: 'generated', sql, stored, span: reader.since(from) };
  }
  if (reader.takes('in')) {
    reader.expects('(', 'after in');
    const values = list(reader, () => readLiteral(reader, 'a value'));
    reader.expects(')', 'after the values');
    return { kind: 'in', values, span: reader.since(from) };
  }
  if (reader.takes('column')) return { kind: 'column', name: reader.name('a column'), span: reader.since(from) };
  if (reader.takes('title')) return { kind: 'title', text: reader.text('the title'), span: reader.since(from) };
  if (reader.takes('was')) {
    const entity = reader.seesEntity() && reader.sees('.', 1) ? reader.entity('an entity') : null;
    if (entity !== null) reader.takes('.');
    return { kind: 'was', entity, name: reader.name('the former column'), span: reader.since(from) };
  }
  reader.finish(MODIFIER_WORDS);
  return null;
}

function readDefault(reader: Reader): Extract<Modifier, { kind: 'default' }>['value'] {
  if (!reader.sees('sql') || !reader.sees('(', 1)) return readLiteral(reader, 'a default');
  const { declaration, span } = readSql(reader, 'the SQL of the default');
  return { kind: 'sql', sql: declaration, span };
}

function readSql(reader: Reader, what: string): { declaration: string; span: Span } {
  const from = reader.here;
  reader.advance('type');
  reader.takes('(');
  const declaration = reader.text(what).value;
  reader.expects(')', `after ${what}`);
  return { declaration, span: reader.since(from) };
}

/** Reads `kept`, SQL line by line, and the dialect that it is of. */
export function readKept(reader: Reader): KeptLine {
  const from = reader.here;
  reader.takes('kept');
  const sql = list(reader, () => reader.text('the SQL to keep'));
  const dialect = reader.takes('on') ? readDialect(reader) : null;
  return { kind: 'kept', sql, dialect, span: reader.since(from) };
}

/** Reads `stored TYPE as 'SQL'`, where n, p and s stand for the numbers of a type. */
export function readStoredType(reader: Reader): StoredTypeLine {
  const from = reader.here;
  reader.takes('stored');
  const type = TYPE_WORDS.find((word) => word !== 'sql' && reader.sees(word));
  if (type === undefined)
    reader.failAmong(TYPE_WORDS, `Expected a type after stored, found ${reader.found()}. Types are ${TYPE_WORDS.join(', ')}.`);
  reader.advance('type');
  const letters = { text: ['n'], decimal: ['p', 's'] }[type ?? ''] ?? [];
  const bracket = letters.length > 0 && reader.takes('(');
  if (bracket) {
    letters.forEach((letter, index) => {
      if (index > 0) reader.expects(',', 'between the two');
      reader.expects(letter, 'for the number');
    });
    reader.expects(')', 'after it');
  }
  reader.expects('as', 'after the type');
  const declaration = reader.text('how it is declared');
  return {
    kind: 'stored type',
    type: `${type ?? ''}${bracket ? `(${letters.join(', ')})` : ''}`,
    declaration,
    span: reader.since(from),
  };
}

/** What types are called in SQL and in programs, where it is another word than here. */
const ELSEWHERE: ReadonlyMap<string, string> = new Map([
  ...(['int', 'smallint', 'mediumint', 'tinyint', 'serial', 'number'] as const).map((word) => [word, 'integer'] as const),
  ...(['long', 'bigserial', 'int8'] as const).map((word) => [word, 'bigint'] as const),
  ...(['string', 'str', 'varchar', 'char', 'nvarchar', 'clob', 'citext'] as const).map((word) => [word, 'text'] as const),
  ...(['bool', 'bit'] as const).map((word) => [word, 'boolean'] as const),
  ...(['float', 'double'] as const).map((word) => [word, 'real'] as const),
  ...(['numeric', 'money', 'dec'] as const).map((word) => [word, 'decimal'] as const),
  ...(['datetime', 'timestamptz', 'instant'] as const).map((word) => [word, 'timestamp'] as const),
  ...(['blob', 'binary', 'varbinary', 'bytea'] as const).map((word) => [word, 'bytes'] as const),
  ['guid', 'uuid'] as const,
  ['jsonb', 'json'] as const,
]);

/** Reads a type: a word of the notation, a choice, or (as a parameter) an entity. */
export function readType(reader: Reader, what: string): TypeSyntax {
  const from = reader.here;
  for (const kind of PLAIN_TYPES) {
    if (reader.sees(kind)) {
      reader.advance('type');
      return { kind, span: from };
    }
  }
  if (reader.sees('decimal')) {
    reader.advance('type');
    reader.expects('(', 'after decimal, as in decimal(8, 2)');
    const precision = reader.count('the number of digits');
    reader.expects(',', 'between the digits and the decimals');
    const scale = reader.count('the number of decimals');
    reader.expects(')', 'after the decimals');
    const span = reader.since(from);
    if (precision < 1 || precision > 65 || scale > precision) {
      reader.fail(`decimal(${precision}, ${scale}) cannot be: 1 to 65 digits, and no more decimals than digits.`, span);
    }
    return { kind: 'decimal', precision, scale, span };
  }
  if (reader.sees('text')) {
    reader.advance('type');
    if (!reader.takes('(')) return { kind: 'text', length: null, span: from };
    const length = reader.count('a length');
    reader.expects(')', 'after the length');
    if (length < 1) reader.fail('A text has a length of at least 1.', reader.since(from));
    return { kind: 'text', length, span: reader.since(from) };
  }
  if (reader.sees('sql') && reader.sees('(', 1)) {
    return { kind: 'sql', ...readSql(reader, 'a physical type') };
  }
  if (reader.seesEntity()) {
    const name = reader.entity('a choice');
    return { kind: 'named', name, span: name.span };
  }
  const types = reader.kind() === TokenKind.word ? ` Types are ${TYPE_WORDS.join(', ')}, or a choice.` : '';
  const word = reader.word().toLowerCase();
  const near = reader.kind() === TokenKind.word ? nearest(word, [...TYPE_WORDS, ...ELSEWHERE.keys()]) : null;
  const meant = near === null ? null : (ELSEWHERE.get(near) ?? near);
  reader.failAmong(TYPE_WORDS, `Expected ${what}, found ${reader.found()}.${types}`, meant);
  return { kind: 'text', length: null, span: from };
}

function readNames(reader: Reader): Name[] {
  reader.expects('(', 'before the fields');
  const names = list(reader, () => reader.name('a field or role'));
  reader.expects(')', 'after the fields');
  return names;
}

function readColumns(reader: Reader, from: Span, kind: 'unique' | 'index'): EntityLine {
  reader.takes(kind);
  const fields = readNames(reader);
  return { kind, fields, tail: readTail(reader), span: reader.since(from) };
}

function readCondition(reader: Reader, from: Span, kind: 'check' | 'rule'): EntityLine {
  reader.takes(kind);
  const name = reader.name(`a name for the ${kind}`);
  reader.expects(':', `after the name of the ${kind}`);
  const expression = readExpression(reader);
  return { kind, name, expression, tail: readTail(reader), span: reader.since(from) };
}

function readTail(reader: Reader): Tail {
  let message: Text | null = null;
  let note: Text | null = null;
  let named: Name | null = null;
  let asIndex: Name | null = null;
  for (;;) {
    const goesOn = ['message', 'note', 'named', 'as'].some((word) => reader.sees(word, 1));
    const comma = (reader.sees(',') && goesOn && reader.takes(',')) || false;
    if (reader.takes('message')) message = reader.text('the message');
    else if (reader.takes('note')) note = reader.text('the note');
    else if (reader.takes('named')) named = readAnyName(reader, 'the name in the database');
    else if (reader.takes('as', 'index')) asIndex = readAnyName(reader, 'the name of the index');
    else if (!comma) return { message, note, named, asIndex };
  }
}

/** Reads `, note '…'`, which may stand behind many things. */
export function readNote(reader: Reader): Text | null {
  let note: Text | null = null;
  while (reader.sees(',') && reader.sees('note', 1)) {
    reader.takes(',', 'note');
    note = reader.text('the note');
  }
  return note;
}

/** Reads a name of the database's, which may start with a capital or not. */
export function readAnyName(reader: Reader, what: string): Name {
  return reader.kind() === TokenKind.capital ? reader.entity(what) : reader.name(what);
}

/** Reads `sqlite`, `postgres` or `mariadb`. */
export function readDialect(reader: Reader): DialectName {
  for (const dialect of DIALECTS) if (reader.takes(dialect)) return dialect;
  reader.failAmong(DIALECTS, `Expected ${DIALECTS.join(', ')}, found ${reader.found()}.`);
  return DIALECTS[0];
}

/** Reads a physical name, with its schema where there is one. */
export function readPhysicalName(reader: Reader, what: string): PhysicalName {
  const from = reader.here;
  const first = reader.name(what);
  if (!reader.takes('.')) return { schema: null, name: first, span: first.span };
  const name = reader.name(`${what} after the schema`);
  return { schema: first, name, span: reader.since(from) };
}

function readKinds(reader: Reader): KindsStorage {
  if (reader.takes('single', 'table')) return { kind: 'single table', column: readBy(reader) };
  if (reader.takes('joined', 'tables')) return { kind: 'joined tables', column: readBy(reader) };
  if (reader.takes('separate', 'tables')) return { kind: 'separate tables' };
  if (reader.takes('json')) {
    const json = reader.name('the json column');
    return { kind: 'json', json, column: readBy(reader) };
  }
  const storages = ['single', 'joined', 'separate', 'json'];
  reader.failAmong(storages, `Expected single table, joined tables, separate tables or json, found ${reader.found()}.`);
  return { kind: 'separate tables' };
}

function readBy(reader: Reader): Name {
  reader.expects('by', 'and the column of the mark');
  return reader.name('the column of the mark');
}
