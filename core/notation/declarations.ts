import { readActor, readCommand, seesCommand } from './command-lines.js';
import { DIALECTS, readDialect, readEntityLine, readKept, readNote, readPhysicalName, readStoredType } from './entity-lines.js';
import { readExpression, readOrder, readPath } from './expressions.js';
import type { Span } from './finding.js';
import type { Line } from './lines.js';
import { QUERY_LINE_WORDS, readLoad, readParameters, readQueryLine } from './query-lines.js';
import { list, type Reader } from './reader.js';
import { readRelationLine } from './relation-lines.js';
import { readExpectLine, readSampleLine } from './sample-lines.js';
import type {
  ChoiceSyntax,
  Declaration,
  EntityLine,
  LoadSyntax,
  Name,
  QueryLine,
  RelationLine,
  ScopeLine,
  Text,
  TreeSyntax,
  WallSyntax,
} from './syntax.js';

/** The readers for the lines below a declaration's head. */
export interface Body {
  readonly line: Line;
  readonly span: Span;
  readonly head: Span;
  readerOf(line: Line): Reader;
}

type ReadDeclaration = (reader: Reader, body: Body) => Declaration;

/** One reader for each keyword that begins a declaration. */
export const declarations: Readonly<Record<string, ReadDeclaration>> = Object.assign(Object.create(null), {
  tree: (reader: Reader, body: Body): Declaration => {
    const title = reader.text('the title of the tree');
    reader.finish();
    return { kind: 'tree', title, lines: readBody(body, readTreeLine), span: body.span, head: body.head };
  },
  choice: (reader: Reader, body: Body): Declaration => {
    const name = reader.entity('the name of the choice');
    reader.finish();
    const values = readBody(body, (line): ChoiceSyntax['values'][number] => {
      const value = line.text('a value');
      return { value, title: line.takes('as') ? line.text('its title') : null };
    });
    return { kind: 'choice', name, values, span: body.span, head: body.head };
  },
  mixin: (reader: Reader, body: Body): Declaration => {
    const name = reader.entity('the name of the mixin');
    reader.finish();
    return { kind: 'mixin', name, lines: readBody(body, readEntityLine), span: body.span, head: body.head };
  },
  entity: readEntity,
  relation: readRelation,
  path: (reader: Reader, body: Body): Declaration => {
    const entity = reader.entity('an entity');
    reader.expects('.', 'between the entity and the path');
    const name = reader.name('the name of the path', 'role');
    reader.expects('=', 'after the name of the path');
    const path = readPath(reader);
    const orderBy = reader.takes('order', 'by') ? readOrder(reader) : [];
    const first = reader.takes('first');
    const note = readNote(reader);
    reader.finish(['order', 'first', 'note']);
    refuseBody(body, 'path');
    return { kind: 'path', entity, name, path, orderBy, first, note, span: body.span, head: body.head };
  },
  scope: (reader: Reader, body: Body): Declaration => {
    const name = reader.name('the name of the scope');
    reader.finish();
    return { kind: 'scope', name, lines: readBody(body, readScopeLine), span: body.span, head: body.head };
  },
  wall: (reader: Reader, body: Body): Declaration => {
    const name = reader.name('the name of the wall');
    let on: 'read' | 'write' | null = null;
    if (reader.takes('on')) {
      on = reader.takes('read') ? 'read' : reader.takes('write') ? 'write' : null;
      if (on === null) reader.fail(`Expected read or write after on, found ${reader.found()}.`);
    }
    reader.finish(['on']);
    return { kind: 'wall', name, on, lines: readBody(body, readWallLine), span: body.span, head: body.head };
  },
  query: (reader: Reader, body: Body): Declaration => {
    const name = reader.name('the name of the query');
    const parameters = readParameters(reader);
    reader.finish();
    return { kind: 'query', name, parameters, lines: readQueryLines(body.line.children, body), span: body.span, head: body.head };
  },
  sample: (reader: Reader, body: Body): Declaration => {
    const entity = reader.entity('an entity');
    const count = reader.done ? null : reader.count('the number of rows');
    reader.finish();
    return { kind: 'sample', entity, count, lines: readBody(body, readSampleLine), span: body.span, head: body.head };
  },
  expect: (reader: Reader, body: Body): Declaration => {
    const subject = readSubject(reader);
    const actor = reader.takes('as') ? readActor(reader) : null;
    reader.finish(['as']);
    return { kind: 'expect', subject, actor, lines: readBody(body, readExpectLine), span: body.span, head: body.head };
  },
  meant: (reader: Reader, body: Body): Declaration => {
    const code = reader.name('the finding that is meant so');
    let of = null;
    if (reader.takes('of')) {
      const owner = reader.seesEntity() ? reader.entity('an entity') : reader.name('an entity or a relation');
      of = { owner, member: reader.takes('.') ? reader.name('a line of the entity') : null };
    }
    reader.expects(':', 'before the reason');
    const why = reader.text('the reason');
    reader.finish(['of']);
    refuseBody(body, 'finding that is meant so');
    return { kind: 'meant', code, of, why, span: body.span, head: body.head };
  },
});

/** The words that begin a declaration. */
export const DECLARATION_WORDS: readonly string[] = Object.keys(declarations);

function readBody<T>(body: Body, read: (reader: Reader) => T): T[] {
  return readLines(body.line.children, body, (reader) => read(reader));
}

/** Reads each line on its own; what a line says is kept where the whole line was understood. */
function readLines<T>(lines: readonly Line[], body: Body, read: (reader: Reader, line: Line) => T, nests = false): T[] {
  const values: T[] = [];
  for (const line of lines) {
    const reader = body.readerOf(line);
    const value = read(reader, line);
    reader.finish();
    if (!nests) refuseChildren(line, body);
    if (!reader.spent || isUsable(value)) values.push(value);
  }
  return values;
}

/** A field whose name and type were read stands even where one of its modifiers was not understood. */
function isUsable(value: unknown): boolean {
  const line = value as { kind?: string; name?: Name; type?: { span: Span; kind: string; name?: Name } };
  if (line.kind !== 'field' || line.name === undefined || line.type === undefined) return false;
  return line.name.text !== '' && line.type.span.end > line.name.span.end && line.type.name?.text !== '';
}

function refuseChildren(line: Line, body: Body): void {
  for (const child of line.children) {
    const reader = body.readerOf(child);
    const owner = body.readerOf(line);
    reader.fail(`Nothing can be indented below “${owner.found()}…”. Move this line to the left.`);
  }
}

function refuseBody(body: Body, what: string): void {
  for (const child of body.line.children) body.readerOf(child).fail(`A ${what} has no lines below it.`);
}

function readTreeLine(reader: Reader): TreeSyntax['lines'][number] {
  const from = reader.here;
  for (const kind of ['note', 'clock'] as const) {
    if (reader.takes(kind)) return { kind, text: reader.text(`the ${kind}`), span: reader.since(from) };
  }
  if (reader.takes('actor')) return { kind: 'actor', entity: reader.entity('an entity'), span: reader.since(from) };
  if (reader.takes('dialect')) return { kind: 'dialect', dialect: readDialect(reader), span: reader.since(from) };
  if (reader.sees('stored')) return readStoredType(reader);
  if (reader.takes('tables', 'as', 'stated')) return { kind: 'tables as stated', span: reader.since(from) };
  if (reader.takes('references', 'without', 'columns')) return { kind: 'references without columns', span: reader.since(from) };
  if (reader.sees('kept')) return readKept(reader);
  const words = ['note', 'actor', 'clock', 'dialect', 'stored', 'tables', 'references', 'kept'];
  reader.failAmong(words, `Expected ${words.slice(0, -1).join(', ')} or ${words.at(-1)}, found ${reader.found()}.`);
  return { kind: 'dialect', dialect: DIALECTS[0], span: from };
}

function readEntity(reader: Reader, body: Body): Declaration {
  const name = reader.entity('the name of the entity');
  let table = null;
  let base: Name | null = null;
  let mark: Text | null = null;
  let abstract = false;
  let given = false;
  let was = null;
  while (!reader.done) {
    if (reader.takes('in')) table = readPhysicalName(reader, 'a table');
    else if (reader.takes('is')) base = reader.entity('an entity');
    else if (reader.takes('marked')) mark = reader.text('the mark');
    else if (reader.takes('abstract')) abstract = true;
    else if (reader.takes('given')) given = true;
    else if (reader.takes('was')) was = readPhysicalName(reader, 'the former table');
    else reader.finish(['in', 'is', 'marked', 'abstract', 'given', 'was']);
  }
  const lines: EntityLine[] = readBody(body, readEntityLine);
  return { kind: 'entity', name, table, base, mark, abstract, given, was, lines, span: body.span, head: body.head };
}

function readRelation(reader: Reader, body: Body): Declaration {
  const name = reader.name('the name of the relation');
  const was = reader.takes('was') ? reader.name('the former name') : null;
  const note = readNote(reader);
  reader.finish(['was', 'note']);
  const lines = readLines(
    body.line.children,
    body,
    (line, source): RelationLine => {
      const head = readRelationLine(line);
      if (head.kind !== 'stored') {
        refuseChildren(source, body);
        return head;
      }
      const marks: { entity: Name; mark: Text }[] = [];
      const below: EntityLine[] = [];
      for (const child of source.children) {
        const childReader = body.readerOf(child);
        if (childReader.seesEntity() && childReader.sees('marked', 1)) {
          const entity = childReader.entity('an entity');
          childReader.takes('marked');
          const mark = childReader.text('the mark');
          childReader.finish();
          if (!childReader.spent) marks.push({ entity, mark });
          refuseChildren(child, body);
        } else {
          for (const read of readLines([child], body, readEntityLine)) below.push(read);
        }
      }
      return { ...head, lines: below, marks };
    },
    true,
  );
  return { kind: 'relation', name, was, note, lines, span: body.span, head: body.head };
}

function readScopeLine(reader: Reader): ScopeLine {
  const from = reader.here;
  if (reader.takes('note')) return { kind: 'note', text: reader.text('the note'), span: reader.since(from) };
  const entity = reader.entity('an entity or note');
  reader.expects('where', 'after the entity');
  return { kind: 'where', entity, condition: readExpression(reader), span: reader.since(from) };
}

function readWallLine(reader: Reader): WallSyntax['lines'][number] {
  const from = reader.here;
  if (reader.takes('unless')) return { kind: 'unless', condition: readExpression(reader), span: reader.since(from) };
  if (reader.takes('pin')) {
    const entity = reader.entity('an entity');
    reader.expects('.', 'between the entity and its field or role');
    const member = reader.name('a field or role');
    reader.expects('to', 'and the value');
    return { kind: 'pin', entity, member, value: readExpression(reader), span: reader.since(from) };
  }
  return readScopeLine(reader);
}

function readSubject(reader: Reader): Extract<Declaration, { kind: 'expect' }>['subject'] {
  if (seesCommand(reader)) return { kind: 'command', command: readCommand(reader) };
  const name = reader.name('a query or a command');
  if (!reader.takes('(')) return { kind: 'query', name, args: [] };
  const args = reader.sees(')') ? [] : list(reader, () => readExpression(reader));
  reader.expects(')', 'after what the query takes');
  return { kind: 'query', name, args };
}

/** Reads the lines of a query, with the loads indented below loads. */
export function readQueryLines(lines: readonly Line[], body: Body): QueryLine[] {
  return readLines(
    lines,
    body,
    (reader, line): QueryLine => {
      if (reader.seesEntity() || !QUERY_LINE_WORDS.includes(reader.word())) return readQueryLine(reader);
      const value = readQueryLine(reader);
      if (value.kind !== 'load') {
        refuseChildren(line, body);
        return value;
      }
      return { ...value, loads: readLoads(line.children, body) };
    },
    true,
  );
}

function readLoads(lines: readonly Line[], body: Body): LoadSyntax[] {
  return readLines(
    lines,
    body,
    (reader, line): LoadSyntax => {
      if (reader.sees('load') && reader.seesName(1)) reader.takes('load');
      return { ...readLoad(reader), loads: readLoads(line.children, body) };
    },
    true,
  );
}
