import type { Span } from './finding.js';
import { quoteText, TokenKind, unquote } from './lexer.js';
import { list, type Reader } from './reader.js';
import type { BinaryOperator, CaseBranch, Expr, IntervalUnit, Literal, OrderTerm, Path, PathRoot, PathStep } from './syntax.js';

/** Deeper nesting than any person writes; it keeps every later walk over an expression from overflowing the stack. */
const DEEPEST_EXPRESSION = 100;
const LONGEST_CHAIN = 1000;

const depths = new WeakMap<Reader, number>();

const COMPARISONS = ['=', '<>', '<=', '>=', '<', '>'] as const;
const UNITS: Readonly<Record<string, IntervalUnit>> = Object.assign(Object.create(null), {
  minute: 'minute',
  minutes: 'minute',
  hour: 'hour',
  hours: 'hour',
  day: 'day',
  days: 'day',
  week: 'week',
  weeks: 'week',
  month: 'month',
  months: 'month',
  year: 'year',
  years: 'year',
});

/** Words that no path may start with. */
export const RESERVED = ['true', 'false', 'null', 'today', 'now', 'not', 'case'] as const;

/** Reads a whole expression, by SQL's precedence: or, and, not, comparison, ||, + -, * / %, unary minus. */
export function readExpression(reader: Reader): Expr {
  return nested(reader, () => chain(reader, ['or'], readConjunction));
}

function readConjunction(reader: Reader): Expr {
  return chain(reader, ['and'], readNegation);
}

function readNegation(reader: Reader): Expr {
  const from = reader.here;
  if (!reader.takes('not')) return readComparison(reader);
  const operand = nested(reader, () => readNegation(reader));
  return { kind: 'not', operand, span: reader.since(from) };
}

/** `is a WindInstrument`, where nothing stands before it: what kind the row at hand is. */
function readOwnKind(reader: Reader): Expr | null {
  const from = reader.here;
  const behind = reader.word(reader.word(1) === 'not' ? 2 : 1);
  if (!reader.sees('is') || (behind !== 'a' && behind !== 'an')) return null;
  reader.takes('is');
  const negated = reader.takes('not');
  if (!reader.takes('a')) reader.takes('an');
  const entity = reader.entity('an entity after is a');
  return { kind: 'is a', operand: null, entity, negated, span: reader.since(from) };
}

function readComparison(reader: Reader): Expr {
  const from = reader.here;
  const own = readOwnKind(reader);
  if (own !== null) return own;
  const left = readSum(reader);
  for (const operator of COMPARISONS) {
    if (reader.takes(operator)) {
      const right = readSum(reader);
      const span = reader.since(from);
      if (COMPARISONS.some((other) => reader.sees(other))) {
        reader.fail('Comparisons do not chain. Join two of them with and.');
      }
      return { kind: 'binary', operator, left, right, span };
    }
  }
  if (reader.takes('is')) {
    const negated = reader.takes('not');
    if (reader.takes('null')) return { kind: 'is null', operand: left, negated, span: reader.since(from) };
    if (reader.takes('a') || reader.takes('an')) {
      const entity = reader.entity('an entity after is a');
      return { kind: 'is a', operand: left, entity, negated, span: reader.since(from) };
    }
    reader.fail(`Expected null or an entity (is null, is a Loan) after is, found ${reader.found()}.`);
    return left;
  }
  const negated = reader.sees('not') && ['in', 'between', 'like'].includes(reader.word(1)) && reader.takes('not');
  if (reader.takes('in')) {
    if (reader.sees(':'))
      return { kind: 'in', operand: left, items: [readPrimary(reader)], list: true, negated, span: reader.since(from) };
    reader.expects('(', 'after in');
    const items = list(reader, () => readExpression(reader));
    reader.expects(')', 'after the list');
    return { kind: 'in', operand: left, items, list: false, negated, span: reader.since(from) };
  }
  if (reader.takes('between')) {
    const low = readSum(reader);
    reader.expects('and', 'between the two bounds');
    const high = readSum(reader);
    return { kind: 'between', operand: left, low, high, negated, span: reader.since(from) };
  }
  if (reader.takes('like')) {
    const pattern = readSum(reader);
    return { kind: 'like', operand: left, pattern, negated, span: reader.since(from) };
  }
  return left;
}

/** Reads the part of an expression that stands between comparisons: `||`, `+ -`, `* / %`. */
export function readSum(reader: Reader): Expr {
  return nested(reader, () => chain(reader, ['||'], (r) => chain(r, ['+', '-'], (s) => chain(s, ['*', '/', '%'], readUnary))));
}

function readUnary(reader: Reader): Expr {
  const from = reader.here;
  if (!reader.takes('-')) return readPrimary(reader);
  const operand = nested(reader, () => readUnary(reader));
  return { kind: 'negate', operand, span: reader.since(from) };
}

function readPrimary(reader: Reader): Expr {
  const from = reader.here;
  switch (reader.kind()) {
    case TokenKind.number: {
      const text = reader.number('a number');
      const unit = reader.kind() === TokenKind.word ? UNITS[reader.word()] : undefined;
      if (unit === undefined) return { kind: 'number', text, span: from };
      reader.advance('keyword');
      return { kind: 'interval', amount: text, unit, span: reader.since(from) };
    }
    case TokenKind.text:
      return { kind: 'text', value: unquote(reader.advance('text')), span: from };
    default:
  }
  if (reader.takes('true')) return { kind: 'boolean', value: true, span: from };
  if (reader.takes('false')) return { kind: 'boolean', value: false, span: from };
  for (const word of ['null', 'today', 'now'] as const) if (reader.takes(word)) return { kind: word, span: from };
  if (reader.takes(':')) {
    const name = reader.name('the name of a parameter after the colon', 'parameter');
    return { kind: 'parameter', name: name.text, span: reader.since(from) };
  }
  if (reader.takes('case')) return readCase(reader, from);
  if (reader.sees('(') && !isCast(reader)) {
    reader.takes('(');
    const inner = readExpression(reader);
    reader.expects(')', 'to close the bracket');
    return inner;
  }
  if (reader.sees('lines') && reader.sees('(', 1)) return readLines(reader, from);
  if (reader.kind() === TokenKind.word && reader.sees('(', 1)) {
    const name = reader.name('a function', 'keyword');
    reader.takes('(');
    const star = reader.takes('*');
    const args = star || reader.sees(')') ? [] : list(reader, () => readExpression(reader));
    reader.expects(')', `after what ${name.text} takes`);
    return { kind: 'call', name, args, star, span: reader.since(from) };
  }
  const path = readPath(reader);
  return { kind: 'path', path, span: path.span };
}

/** Reads a text of several lines: `lines('the first', 'the second')`. */
function readLines(reader: Reader, from: Span): Expr {
  reader.name('lines', 'keyword');
  reader.takes('(');
  const lines = list(reader, () => reader.text('a line of the text, in single quotes').value);
  reader.expects(')', 'after the last line');
  return { kind: 'text', value: lines.join('\n'), span: reader.since(from) };
}

function readCase(reader: Reader, from: Span): Expr {
  const branches: CaseBranch[] = [];
  while (reader.takes('when')) {
    const when = readExpression(reader);
    reader.expects('then', 'after the condition of when');
    branches.push({ when, then: readExpression(reader) });
  }
  if (branches.length === 0) reader.fail(`Expected when after case, found ${reader.found()}.`);
  const otherwise = reader.takes('else') ? readExpression(reader) : null;
  reader.expects('end', 'to close the case');
  return { kind: 'case', branches, otherwise, span: reader.since(from) };
}

/** Does `( path as Entity )` stand here? Only then is a bracket part of a path. */
function isCast(reader: Reader): boolean {
  let depth = 0;
  for (let ahead = 0; reader.kind(ahead) !== TokenKind.end; ahead++) {
    if (reader.sees('(', ahead) || reader.sees('[', ahead)) depth += 1;
    else if (reader.sees(')', ahead) || reader.sees(']', ahead)) depth -= 1;
    else if (depth === 1 && reader.sees('as', ahead) && reader.seesEntity(ahead + 1)) return true;
    if (depth === 0) return false;
  }
  return false;
}

/** Reads a dotted path with filters and casts. */
export function readPath(reader: Reader): Path {
  return nested(reader, () => {
    const from = reader.here;
    const root = readRoot(reader);
    const steps: PathStep[] = [];
    for (;;) {
      const start = reader.here;
      if (reader.takes('.')) {
        const name = reader.name('a role or field after the dot', 'role');
        steps.push({ kind: 'member', name, span: reader.since(start) });
      } else if (reader.takes('[')) {
        const condition = readExpression(reader);
        reader.expects(']', 'after the condition');
        steps.push({ kind: 'filter', condition, span: reader.since(start) });
      } else {
        return { root, steps, span: reader.since(from) };
      }
    }
  });
}

function readRoot(reader: Reader): PathRoot {
  const from = reader.here;
  if (reader.takes('(')) {
    const path = readPath(reader);
    reader.expects('as', 'between the path and the entity');
    const entity = reader.entity('an entity after as');
    reader.expects(')', 'after the entity');
    return { kind: 'cast', path, entity, span: reader.since(from) };
  }
  if (reader.takes('me')) return { kind: 'me', span: from };
  if (reader.kind() === TokenKind.capital || (reader.kind() === TokenKind.quoted && reader.sees('(', 1))) {
    const entity = reader.entity('an entity');
    let key: Expr[] | null = null;
    if (reader.takes('(')) {
      key = list(reader, () => readExpression(reader));
      reader.expects(')', 'after the key');
    }
    return { kind: 'row', entity, key, span: reader.since(from) };
  }
  const reserved = reader.kind() === TokenKind.word && (RESERVED as readonly string[]).includes(reader.word());
  if (reserved) reader.fail(`${reader.word()} is reserved; a field of that name is written in double quotes.`);
  const name = reader.name('a field, a role or a value', 'plain');
  return { kind: 'name', name, span: from };
}

/** Reads the terms behind `order by`. */
export function readOrder(reader: Reader): OrderTerm[] {
  return list(reader, () => {
    const expression = readExpression(reader);
    return { expression, descending: reader.takes('desc') };
  });
}

/** Reads a literal: a number with an optional minus, a text, or one of the words. */
export function readLiteral(reader: Reader, what: string): Literal {
  const span = reader.here;
  if (reader.takes('true')) return { kind: 'boolean', value: true, span };
  if (reader.takes('false')) return { kind: 'boolean', value: false, span };
  for (const word of ['null', 'today', 'now'] as const) if (reader.takes(word)) return { kind: word, span };
  if (reader.kind() === TokenKind.text) return { kind: 'text', value: reader.text(what).value, span };
  const minus = reader.takes('-') ? '-' : '';
  if (reader.kind() === TokenKind.quoted && minus === '') {
    const written = reader.word();
    const text = quoteText(unquote(written));
    reader.failAmong([], `${written} is a name; a text stands in single quotes.`, text);
  } else if (reader.kind() !== TokenKind.number) {
    reader.fail(
      `Expected ${what} (a number, a text in single quotes, true, false, null, today or now), found ${reader.found()}.`,
    );
  }
  return { kind: 'number', text: minus + reader.number(what), span: reader.since(span) };
}

function chain(reader: Reader, operators: readonly BinaryOperator[], operand: (reader: Reader) => Expr): Expr {
  const from = reader.here;
  let left = operand(reader);
  for (let length = 0; ; length++) {
    const operator = operators.find((candidate) => reader.takes(candidate));
    if (operator === undefined) return left;
    if (length > LONGEST_CHAIN) reader.fail('This expression is too long to follow. Split it into scopes.');
    const right = operand(reader);
    left = { kind: 'binary', operator, left, right, span: reader.since(from) };
  }
}

function nested<T>(reader: Reader, read: () => T): T {
  const depth = (depths.get(reader) ?? 0) + 1;
  depths.set(reader, depth);
  if (depth > DEEPEST_EXPRESSION) reader.fail('This expression is nested too deeply. Split it into scopes.');
  const result = read();
  depths.set(reader, depth - 1);
  return result;
}
