import { readType } from './entity-lines.js';
import { readExpression, readOrder, readPath, readSum } from './expressions.js';
import type { Span } from './finding.js';
import { TokenKind } from './lexer.js';
import { list, type Reader } from './reader.js';
import type { LoadSyntax, LoadWay, OrderTerm, ParameterSyntax, Path, QueryLine } from './syntax.js';

/** The words that begin a line of a query. */
export const QUERY_LINE_WORDS: readonly string[] = [
  'from',
  'where',
  'load',
  'show',
  'group',
  'having',
  'order',
  'limit',
  'offset',
  'lift',
  'reads',
  'first',
  'one',
  'exists',
  'count',
  'note',
];

const LOAD_WAYS: readonly LoadWay[] = ['batch', 'join', 'json', 'row'];

/** Reads one line of a query, without the loads indented below it. */
export function readQueryLine(reader: Reader): QueryLine {
  const from = reader.here;
  if (reader.takes('from')) return { kind: 'from', entity: reader.entity('an entity'), span: reader.since(from) };
  for (const kind of ['where', 'having'] as const) {
    if (reader.takes(kind)) return { kind, condition: readExpression(reader), span: reader.since(from) };
  }
  if (reader.takes('load')) return readLoad(reader);
  if (reader.takes('show')) return readShow(reader, from);
  if (reader.takes('group')) {
    reader.expects('by', 'after group');
    return { kind: 'group by', items: list(reader, () => readExpression(reader)), span: reader.since(from) };
  }
  if (reader.takes('order')) {
    reader.expects('by', 'after order');
    return { kind: 'order by', terms: readOrder(reader), span: reader.since(from) };
  }
  for (const kind of ['limit', 'offset'] as const) {
    if (reader.takes(kind)) return { kind, amount: readSum(reader), span: reader.since(from) };
  }
  if (reader.takes('lift')) return { kind: 'lift', wall: reader.name('a wall'), span: reader.since(from) };
  if (reader.takes('reads')) return { kind: 'reads', paths: list(reader, () => readPath(reader)), span: reader.since(from) };
  for (const kind of ['first', 'one', 'exists', 'count'] as const) {
    if (reader.takes(kind)) return { kind, span: from };
  }
  if (reader.takes('note')) return { kind: 'note', text: reader.text('the note'), span: reader.since(from) };
  const word = reader.word();
  reader.failAmong(QUERY_LINE_WORDS, `Expected a line of a query (${QUERY_LINE_WORDS.join(', ')}), found ${reader.found()}.`);
  return { kind: 'note', text: { value: word, span: from }, span: from };
}

/** Reads what stands behind `show`. A field may be called distinct, too. */
function readShow(reader: Reader, from: Span): QueryLine {
  const isName = [',', '.', '[', 'as'].some((word) => reader.sees(word, 1)) || reader.kind(1) === TokenKind.end;
  const distinct = reader.sees('distinct') && !isName && reader.takes('distinct');
  const items = list(reader, () => {
    const start = reader.here;
    const expression = readExpression(reader);
    const written = reader.written(reader.since(start));
    return { expression, as: reader.takes('as') ? reader.name('a name for the column') : null, written };
  });
  return { kind: 'show', distinct, items, span: reader.since(from) };
}

/** Reads what stands behind `load`, or alone on a line below one. */
export function readLoad(reader: Reader): LoadSyntax {
  const from = reader.here;
  const path = readPath(reader);
  let fields: Path[] | null = null;
  if (reader.takes('(')) {
    fields = list(reader, () => readPath(reader));
    reader.expects(')', 'after the fields');
  }
  const where = reader.takes('where') ? readExpression(reader) : null;
  let orderBy: OrderTerm[] = [];
  if (reader.takes('order')) {
    reader.expects('by', 'after order');
    orderBy = readOrder(reader);
  }
  const limit = reader.takes('limit') ? readSum(reader) : null;
  const only = limit === null ? ((['first', 'one'] as const).find((word) => reader.takes(word)) ?? null) : null;
  let by: LoadWay | null = null;
  if (reader.takes('by')) {
    by = LOAD_WAYS.find((way) => reader.takes(way)) ?? null;
    if (by === null) reader.fail(`Expected ${LOAD_WAYS.join(', ')} after by, found ${reader.found()}.`);
  }
  return { kind: 'load', path, fields, where, orderBy, limit, only, by, loads: [], span: reader.since(from) };
}

/** Reads the parameters behind a query's name. */
export function readParameters(reader: Reader): ParameterSyntax[] {
  if (!reader.takes('(')) return [];
  const parameters = reader.sees(')')
    ? []
    : list(reader, () => {
        const name = reader.name('a parameter', 'parameter');
        const many = reader.takes('many');
        const type = readType(reader, `a type or an entity for ${name.text}`);
        return { name, type, many, optional: reader.takes('optional') };
      });
  reader.expects(')', 'after the parameters');
  return parameters;
}
