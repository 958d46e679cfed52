import { readAnyName, readKept, readNote, readPhysicalName } from './entity-lines.js';
import { readOrder } from './expressions.js';
import { list, type Reader } from './reader.js';
import type { DeleteRule, Knows, Name, PhysicalName, PivotColumn, RelationLine, Sentence, Store } from './syntax.js';

/** The words that begin a line of a relation. */
export const RELATION_LINE_WORDS: readonly string[] = ['each', 'stored', 'on', 'deferred', 'named', 'kept', 'note'];

const DELETE_RULES: readonly DeleteRule[] = ['cascade', 'restrict', 'set null', 'set default', 'no action'];

type StoredLine = Extract<RelationLine, { kind: 'stored' }>;

/** A relation's line without what is indented below it. */
export type RelationLineHead = Exclude<RelationLine, StoredLine> | Omit<StoredLine, 'lines' | 'marks'>;

/** Reads one line of a relation: a sentence, its storage, a rule, or a note. */
export function readRelationLine(reader: Reader): RelationLineHead {
  const from = reader.here;
  if (reader.takes('stored')) {
    reader.expects('in', 'after stored');
    const store = readStore(reader);
    let repeats = false;
    let withoutKey = false;
    let withoutTriggers = false;
    let given = false;
    let was: PhysicalName | null = null;
    for (;;) {
      if (reader.takes('repeats')) repeats = true;
      else if (reader.takes('without', 'key')) withoutKey = true;
      else if (reader.takes('without', 'triggers')) withoutTriggers = true;
      else if (reader.takes('given')) given = true;
      else if (reader.takes('was')) was = readPhysicalName(reader, 'the former name');
      else break;
    }
    return { kind: 'stored', store, repeats, withoutKey, withoutTriggers, given, was, span: reader.since(from) };
  }
  for (const event of ['delete', 'update'] as const) {
    if (reader.takes('on', event)) {
      const rule = DELETE_RULES.find((candidate) => reader.takes(...candidate.split(' ')));
      if (rule === undefined) reader.failAmong(DELETE_RULES, `Expected ${DELETE_RULES.join(', ')}, found ${reader.found()}.`);
      return { kind: `on ${event}`, rule: rule ?? 'no action', span: reader.since(from) };
    }
  }
  if (reader.sees('kept')) return readKept(reader);
  if (reader.takes('deferred')) return { kind: 'deferred', span: reader.since(from) };
  if (reader.takes('named'))
    return { kind: 'named', name: readAnyName(reader, 'the name in the database'), span: reader.since(from) };
  if (reader.takes('note')) return { kind: 'note', text: reader.text('the note'), span: reader.since(from) };
  return readSentence(reader);
}

function readSentence(reader: Reader): Sentence {
  const from = reader.here;
  const subjects = reader.takes('each') ? null : readAlternatives(reader, 'an entity, stored, on or note');
  if (!reader.sees('knows')) {
    reader.fail(`Expected knows after the entity, as in “Loan knows one Player as borrower”, found ${reader.found()}.`);
  }
  const knows = readKnows(reader);
  const targets = readAlternatives(reader, 'an entity');
  reader.expects('as', 'and the name of the role');
  const role = reader.name('the name of the role', 'role');
  let bothWays = false;
  if (reader.sees(',') && reader.sees('both', 1)) {
    reader.takes(',');
    reader.takes('both');
    reader.expects('ways', 'after both');
    bothWays = true;
  }
  const orderBy = reader.takes('order', 'by') ? readOrder(reader) : [];
  return {
    kind: 'sentence',
    subjects,
    knows,
    targets,
    role,
    bothWays,
    orderBy,
    note: readNote(reader),
    span: reader.since(from),
  };
}

function readKnows(reader: Reader): Knows {
  if (reader.takes('knows')) {
    if (reader.takes('one')) return 'one';
    if (reader.takes('many')) return 'many';
    if (reader.takes('at', 'most', 'one')) return 'at most one';
    reader.fail(`Expected one, at most one or many after knows, found ${reader.found()}.`);
  }
  return 'one';
}

function readAlternatives(reader: Reader, what: string): Name[] {
  const names = [reader.entity(what)];
  while (reader.takes('|')) names.push(reader.entity('an entity'));
  return names;
}

function readStore(reader: Reader): Store {
  if (reader.takes('table')) {
    const table = readPhysicalName(reader, 'the table of the pivot');
    if (!reader.takes('(')) return { kind: 'table', table, columns: null };
    const first = readPivotColumn(reader);
    reader.expects(',', 'between the two columns');
    const second = readPivotColumn(reader);
    reader.expects(')', 'after the columns');
    return { kind: 'table', table, columns: [first, second] };
  }
  if (reader.takes('one', 'of')) {
    const columns = list(reader, () => {
      const entity = reader.entity('an entity');
      reader.expects('.', 'between the entity and its column');
      return { entity, column: reader.name('a column') };
    });
    return { kind: 'one of', columns };
  }
  const entity = reader.entity('an entity, table or one of');
  if (reader.takes('(')) {
    const first = reader.name('a role', 'role');
    reader.expects(',', 'between the two roles');
    const second = reader.name('a role', 'role');
    reader.expects(')', 'after the roles');
    return { kind: 'entity', entity, roles: [first, second] };
  }
  if (!reader.takes('.')) return { kind: 'entity', entity, roles: null };
  if (reader.takes('(')) {
    const columns = list(reader, () => reader.name('a column'));
    reader.expects(')', 'after the columns');
    return { kind: 'composite', entity, columns, role: readStoreRole(reader) };
  }
  const column = reader.name('a column');
  if (reader.takes('with')) {
    const idEntity = reader.entity('an entity');
    if (idEntity.text !== entity.text)
      reader.fail(`Both columns stand in ${entity.text}, not in ${idEntity.text}.`, idEntity.span);
    reader.expects('.', 'between the entity and its column');
    const id = reader.name('the column of the key');
    return { kind: 'typed', entity, type: column, idEntity, id, role: readStoreRole(reader) };
  }
  return { kind: 'column', entity, column, role: readStoreRole(reader) };
}

function readStoreRole(reader: Reader): Name | null {
  return reader.takes('as') ? reader.name('a role', 'role') : null;
}

function readPivotColumn(reader: Reader): PivotColumn {
  if (reader.takes('(')) {
    const names = list(reader, () => reader.name('a column'));
    reader.expects(')', 'after the columns');
    return { kind: 'composite', names };
  }
  const name = reader.name('a column');
  if (reader.takes('with')) return { kind: 'typed', type: name, id: reader.name('the column of the key') };
  return { kind: 'column', name };
}
