import { readAssignments, readTarget } from './command-lines.js';
import { readExpression, readLiteral, readSum } from './expressions.js';
import { TokenKind } from './lexer.js';
import type { Reader } from './reader.js';
import type { ExpectLine, GeneratorSyntax, SampleLine } from './syntax.js';

/** Reads one line of a sample: a named row, or how a field or role is made. */
export function readSampleLine(reader: Reader): SampleLine {
  const from = reader.here;
  const name = reader.name('the name of a row, or a field');
  if (reader.takes(':')) return { kind: 'row', name, values: readAssignments(reader), span: reader.since(from) };
  return { kind: 'generator', member: name, generator: readGenerator(reader), span: reader.since(from) };
}

function readGenerator(reader: Reader): GeneratorSyntax {
  if (reader.takes('any')) {
    const target = readTarget(reader);
    return { kind: 'any', target, nullShare: readNullShare(reader) };
  }
  if (reader.takes('between')) {
    const low = readSum(reader);
    reader.expects('and', 'between the two bounds');
    const high = readSum(reader);
    return { kind: 'between', low, high, nullShare: readNullShare(reader) };
  }
  if (reader.kind() === TokenKind.number && reader.sees('to', 1)) {
    const least = reader.count('the least number');
    reader.takes('to');
    const most = reader.count('the greatest number');
    reader.expects('each', 'after the numbers');
    if (most < least) reader.fail(`${least} to ${most} is no range: the least comes first.`);
    return { kind: 'each', least, most };
  }
  const values: { value: ReturnType<typeof readLiteral>; share: number | null }[] = [];
  do {
    const value = readLiteral(reader, 'any, between, a number to a number each, or values');
    values.push({ value, share: reader.kind() === TokenKind.number ? readShare(reader) : null });
  } while (reader.sees(',') && !reader.sees('or', 1) && reader.takes(','));
  return { kind: 'values', values, nullShare: readNullShare(reader) };
}

function readShare(reader: Reader): number {
  const share = Number(reader.number('a share'));
  reader.expects('%', 'after the share');
  if (share > 100) reader.fail('A share is at most 100%.');
  return share;
}

function readNullShare(reader: Reader): number {
  if (!reader.takes(',', 'or', 'null')) return 0;
  return readShare(reader);
}

/** Reads one line of an expectation. */
export function readExpectLine(reader: Reader): ExpectLine {
  const from = reader.here;
  for (const kind of ['rows', 'statements'] as const) {
    if (reader.takes(kind)) {
      const bound = reader.takes('at', 'most')
        ? 'at most'
        : kind === 'rows' && reader.takes('at', 'least')
          ? 'at least'
          : 'exactly';
      return { kind, bound, count: reader.count(`the number of ${kind}`), span: reader.since(from) };
    }
  }
  for (const kind of ['every row', 'no row'] as const) {
    if (reader.takes(...kind.split(' '))) return { kind, condition: readExpression(reader), span: reader.since(from) };
  }
  for (const kind of ['fails', 'done', 'refused'] as const) if (reader.takes(kind)) return { kind, span: from };
  if (reader.takes('note')) return { kind: 'note', text: reader.text('the note'), span: reader.since(from) };
  reader.fail(`Expected rows, statements, every row, no row, fails, done, refused or note, found ${reader.found()}.`);
  return { kind: 'fails', span: from };
}
