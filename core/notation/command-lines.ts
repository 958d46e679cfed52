import { readExpression, readPath } from './expressions.js';
import { TokenKind } from './lexer.js';
import { list, type Reader } from './reader.js';
import type { ActorSyntax, Assignment, CommandLine, CommandSyntax, CommandValue, Name, Path } from './syntax.js';

/** Reads values of a row by their names. */
export function readAssignments(reader: Reader): Assignment[] {
  return list(reader, () => ({ name: reader.name('a field or role'), value: readExpression(reader) }));
}

/** Reads what stands behind `with`: values, and children of the row in brackets, as in `cards: (number 'C-1'), (number 'C-2')`. */
function readValues(reader: Reader): CommandValue[] {
  return list(reader, () => {
    const from = reader.here;
    const name = reader.name('a field or role');
    if (!reader.takes(':')) return { kind: 'value', name, value: readExpression(reader), span: reader.since(from) };
    const rows: (readonly Assignment[])[] = [];
    do {
      reader.expects('(', `before the values of a row of ${name.text}`);
      rows.push(reader.sees(')') ? [] : readAssignments(reader));
      reader.expects(')', 'after the values of a row');
    } while (reader.sees(',') && reader.sees('(', 1) && reader.takes(','));
    return { kind: 'children', name, rows, span: reader.since(from) };
  });
}

/** Reads an entity, a row, or a way from one: `Player`, `Player(ines).loans`, `me.cards[number = 'C-1']`. */
export function readTarget(reader: Reader): Path {
  if (reader.kind() !== TokenKind.capital && reader.kind() !== TokenKind.quoted && !reader.sees('me')) {
    reader.fail(`Expected an entity, a row like Player(3), or me, found ${reader.found()}.`);
  }
  if (reader.kind() === TokenKind.quoted && !reader.sees('(', 1)) {
    const from = reader.here;
    const entity = reader.entity('an entity');
    return { root: { kind: 'row', entity, key: null, span: entity.span }, steps: [], span: reader.since(from) };
  }
  return readPath(reader);
}

/** Reads `nobody`, `system` or a row. */
export function readActor(reader: Reader): ActorSyntax {
  const span = reader.here;
  if (reader.takes('nobody')) return { kind: 'nobody', span };
  if (reader.takes('system')) return { kind: 'system', span };
  return { kind: 'row', target: readTarget(reader), span: reader.since(span) };
}

/** The words that begin a command. */
const COMMAND_WORDS: readonly string[] = ['create', 'find', 'update', 'link', 'unlink', 'delete'];

/** Tells whether a command begins here, as against a query's name. */
export function seesCommand(reader: Reader): boolean {
  return COMMAND_WORDS.some((word) => reader.sees(word));
}

/** Tells whether a line of commands begins here, as against one of a query. */
export function seesCommandLine(reader: Reader): boolean {
  return seesCommand(reader) || reader.sees('as') || (reader.seesName() && reader.sees('=', 1));
}

/** Reads a line of commands: a command, with a name for its row where one stands before it; or on whose behalf the lines after it are. */
export function readCommandLine(reader: Reader): CommandLine {
  const from = reader.here;
  if (reader.takes('as')) return { kind: 'as', actor: readActor(reader), span: reader.since(from) };
  let name: Name | null = null;
  if (reader.seesName() && reader.sees('=', 1)) {
    name = reader.name('a name for the row');
    reader.takes('=');
  }
  if (!seesCommand(reader)) {
    const words = [...COMMAND_WORDS, ...(name === null ? ['as'] : [])];
    reader.failAmong(words, `Expected a command (${words.join(', ')}), found ${reader.found()}.`);
  }
  return { kind: 'command', name, command: readCommand(reader), span: reader.since(from) };
}

/** Reads a command: create, find or create, create or update, update, link, unlink, delete. */
export function readCommand(reader: Reader): CommandSyntax {
  const from = reader.here;
  if (reader.takes('delete')) return { kind: 'delete', target: readTarget(reader), span: reader.since(from) };
  for (const kind of ['link', 'unlink'] as const) {
    if (reader.takes(kind)) {
      const target = readTarget(reader);
      const preposition = kind === 'link' ? 'to' : 'from';
      if (kind === 'link' && !reader.sees('to')) reader.fail(`Expected to and what is linked, found ${reader.found()}.`);
      const others = reader.takes(preposition) ? list(reader, () => readTarget(reader)) : [];
      const values = kind === 'link' && reader.takes('with') ? readValues(reader) : [];
      return { kind, target, others, values, span: reader.since(from) };
    }
  }
  const kind = (['find or create', 'create or update', 'create', 'update'] as const).find((words) =>
    reader.takes(...words.split(' ')),
  );
  if (kind === undefined) reader.fail(`Expected a command, found ${reader.found()}.`);
  const target = readTarget(reader);
  if (kind === 'update' && !reader.sees('with')) reader.fail(`Expected with and what is to be set, found ${reader.found()}.`);
  const values = reader.takes('with') ? readValues(reader) : [];
  return { kind: kind ?? 'create', target, values, span: reader.since(from) };
}
