import {
  type Change,
  type CommonTable,
  conjunctsOf,
  type OrderTerm,
  type Query,
  type Reach,
  type RowLock,
  type Select,
  type Source,
  type SqlExpression,
  type TableName,
} from '../sql/index.js';
import { type Binder, isComparison, type Precedence, TIGHTEST, withinComparison } from './precedence.js';

/** The spelling of a dialect where it differs; all else is printed the same for all. */
export interface Spelling {
  /** A name as it stands in SQL: bare where that is safe, quoted otherwise. */
  quote(name: string): string;
  /** A test whether a value is among the keys bound as one list. */
  inKeys(operand: string, parameter: string, type: string): string;
  /** The same for a key of several parts, bound as a list of lists. */
  inKeyTuples(operand: string, types: readonly string[], parameter: string): string;
  /** Keys that are bound as one list, as a table with a column `value`. */
  keys(parameter: string, type: string, alias: string): string;
  /** One part of a composite key that is bound as a list. */
  keyPart(parameter: string, part: number, type: string): string;
  /** All rows as one list of JSON, each a list of its values or of several such lists; an empty one where there are none. */
  jsonRows(lists: readonly (readonly string[])[], orderBy: readonly string[]): string;
  /** A text that stands in the SQL. */
  string(value: string): string;
  /** Bytes, in hexadecimal, that stand in the SQL. */
  bytes(hex: string): string;
  boolean(value: boolean): string;
  /** Which operator binds its operands first. */
  readonly precedence: Precedence;
  /** The function that joins texts, where `||` may mean another thing; null where `||` does it. */
  readonly concat: string | null;
  /** How many different keys of several parts there are. */
  countDistinct(parts: readonly string[]): string;
  /** The list behind `in` for keys of several parts. */
  tuples(items: readonly string[]): string;
  /** What is written behind a term of an order in which there can be nulls. */
  nulls(descending: boolean): string;
  collate(operand: string, collation: string): string;
  /** Whether tables stand in schemas; else the name alone tells them apart. */
  readonly schemas: boolean;
  /** How the driver writes the place of a value, by its number from 1. */
  placeholder(number: number): string;
  /** What stands behind a select that holds its rows; empty where nobody else writes meanwhile, or sees no more. */
  lock(lock: RowLock): string;
  /** What stands behind the table of an insert that gives no column a value: the engine fills all of them. */
  readonly emptyRow: string;
  /** What an insert says where it gives keys that the engine would number; empty where it need not. */
  readonly givenKeys: string;
  /** A limit where only an offset was asked for; empty where none is needed. */
  readonly noLimit: string;
}

const WIDEST_LINE = 62;

/** SQL as a careful person would lay it out: one clause a line, conditions below each other. */
export function printQuery(query: Query, spelling: Spelling): string {
  switch (query.kind) {
    case 'select':
      return printSelect(query, spelling);
    case 'union all':
      return query.selects.map((select) => printSelect(select, spelling)).join('\nunion all\n');
    case 'with': {
      const recursive = query.tables.some(({ next }) => next.length > 0) ? ' recursive' : '';
      const tables = query.tables.map((table) => printCommonTable(table, spelling)).join(', ');
      return `with${recursive} ${tables}\n${printQuery(query.query, spelling)}`;
    }
  }
}

function printCommonTable({ name, columns, first, next }: CommonTable, spelling: Spelling): string {
  const rows = [...first, ...next].map((select) => printSelect(select, spelling)).join('\nunion\n');
  return `${spelling.quote(name)} (${columns.map(spelling.quote).join(', ')}) as (\n${indented(rows)}\n)`;
}

function printSelect(select: Select, spelling: Spelling): string {
  const expression = (inner: SqlExpression) => printExpression(inner, spelling);
  const lines: string[] = [];
  const columns = select.columns.map(({ expression: inner, as }) => {
    const printed = expression(inner);
    const implied = inner.kind === 'column' && inner.column === as;
    return as === null || implied ? printed : `${printed} as ${spelling.quote(as)}`;
  });
  const head = select.distinct ? 'select distinct' : 'select';
  lines.push(`${head} ${wrap(columns, head.length + 1)}`);
  lines.push(`from ${printSource(select.from, spelling)}`);
  for (const join of select.joins) {
    if (join.kind === 'each') {
      lines.push(`cross join lateral ${printSource(join.source, spelling)}`);
      continue;
    }
    const head = `${join.kind === 'left' ? 'left join' : 'join'} ${printSource(join.source, spelling)}`;
    const on = `on ${expression(join.on)}`;
    const broken = `on ${joinedBy(conjunctsOf(join.on), '\n    and ', spelling)}`;
    lines.push(head.length + on.length < WIDEST_LINE ? `${head} ${on}` : `${head}\n  ${on.length < WIDEST_LINE ? on : broken}`);
  }
  if (select.where !== null) lines.push(`where ${joinedBy(conjunctsOf(select.where), '\n  and ', spelling)}`);
  if (select.groupBy.length > 0) lines.push(`group by ${select.groupBy.map(expression).join(', ')}`);
  if (select.having !== null) lines.push(`having ${joinedBy(conjunctsOf(select.having), '\n   and ', spelling)}`);
  if (select.orderBy.length > 0) {
    lines.push(`order by ${select.orderBy.map((term) => printTerm(term, spelling)).join(', ')}`);
  }
  if (select.limit !== null) lines.push(`limit ${expression(select.limit)}`);
  else if (select.offset !== null && spelling.noLimit !== '') lines.push(`limit ${spelling.noLimit}`);
  if (select.offset !== null) lines.push(`offset ${expression(select.offset)}`);
  const lock = select.lock === null ? '' : spelling.lock(select.lock);
  if (lock !== '') lines.push(lock);
  return lines.join('\n');
}

function printTerm({ expression, descending, nulls }: OrderTerm, spelling: Spelling): string {
  return `${printExpression(expression, spelling)}${descending ? ' desc' : ''}${nulls ? spelling.nulls(descending) : ''}`;
}

function joinedBy(parts: readonly SqlExpression[], and: string, spelling: Spelling): string {
  return parts.map((part) => printOperand(part, spelling.precedence.and, spelling)).join(and);
}

function wrap(items: readonly string[], indent: number): string {
  let line = '';
  const lines: string[] = [];
  for (const item of items) {
    if (line !== '' && indent + line.length + item.length + 2 > WIDEST_LINE) {
      lines.push(`${line},`);
      line = item;
    } else {
      line = line === '' ? item : `${line}, ${item}`;
    }
  }
  lines.push(line);
  return lines.join(`\n${' '.repeat(indent)}`);
}

function printSource(source: Source, spelling: Spelling): string {
  if (source.from.kind === 'select')
    return `(\n${indented(printQuery(source.from.select, spelling))}\n) ${spelling.quote(source.alias)}`;
  if (source.from.kind === 'keys')
    return spelling.keys(`:${source.from.parameter}`, source.from.type, spelling.quote(source.alias));
  const { table } = source.from;
  const named = printTable(table, spelling);
  return source.alias === table.name ? named : `${named} ${spelling.quote(source.alias)}`;
}

/** A table by its name, behind that of its schema where it is in one that is named. */
export function printTable({ schema, name }: TableName, { quote, schemas }: Pick<Spelling, 'quote' | 'schemas'>): string {
  return `${schema === null || !schemas ? '' : `${quote(schema)}.`}${quote(name)}`;
}

/** A statement that changes rows: on one line where it is short. */
export function printChange(change: Change, spelling: Spelling): string {
  const { quote } = spelling;
  const table = (name: TableName) => printTable(name, spelling);
  const print = (expression: SqlExpression) => printExpression(expression, spelling);
  const where = (condition: SqlExpression | null) => (condition === null ? [] : [`where ${print(condition)}`]);
  switch (change.kind) {
    case 'insert': {
      const { into, columns, rows, returning = [] } = change;
      const head = `insert into ${table(into)} (${columns.map(quote).join(', ')})${spelling.givenKeys} values`;
      const back = returning.length === 0 ? '' : ` returning ${returning.map(quote).join(', ')}`;
      if (columns.length === 0) return `insert into ${table(into)} ${spelling.emptyRow}${back}`;
      return `${head} ${rows.map((row) => `(${row.map(print).join(', ')})`).join(', ')}${back}`;
    }
    case 'update': {
      const set = change.set.map(({ column, value }) => `${quote(column)} = ${print(value)}`).join(', ');
      return [`update ${table(change.table)}`, `set ${set}`, ...where(change.where)].join(' ');
    }
    case 'delete':
      return [`delete from ${table(change.from)}`, ...where(change.where)].join(' ');
  }
}

/** What is reached, as a list to look in. */
function printReach({ name, column, first, next }: Reach, spelling: Spelling): string {
  const [called, of] = [spelling.quote(name), spelling.quote(column)];
  const steps = `${printSelect(first, spelling)}\nunion\n${printSelect(next, spelling)}`;
  return `with recursive ${called} (${of}) as (\n${indented(steps)}\n)\nselect ${of} from ${called}`;
}

/** Lines, two letters further in. */
export function indented(text: string): string {
  return text
    .split('\n')
    .map((line) => `  ${line}`)
    .join('\n');
}

/** One expression on one line, with no bracket that its operators do not need. */
export function printExpression(expression: SqlExpression, spelling: Spelling): string {
  const print = (inner: SqlExpression) => printExpression(inner, spelling);
  const { precedence } = spelling;
  const operand = (inner: SqlExpression, strength: number) => printOperand(inner, strength, spelling);
  const compared = (inner: SqlExpression) => operand(inner, withinComparison(precedence));
  switch (expression.kind) {
    case 'column':
      return `${expression.source === null ? '' : `${spelling.quote(expression.source)}.`}${spelling.quote(expression.column)}`;
    case 'parameter':
      return expression.type === null ? `:${expression.name}` : `cast(:${expression.name} as ${expression.type})`;
    case 'number':
      return expression.text;
    case 'string':
      return spelling.string(expression.value);
    case 'boolean':
      return spelling.boolean(expression.value);
    case 'bytes':
      return spelling.bytes(expression.hex);
    case 'typed literal':
      return `${expression.type} ${spelling.string(expression.value)}`;
    case 'interval':
      return `interval ${expression.amount} ${expression.unit}`;
    case 'null':
      return 'null';
    case 'placeholder':
      return spelling.placeholder(expression.number);
    case 'tuple':
      return `(${expression.items.map(print).join(', ')})`;
    case 'key part':
      return spelling.keyPart(`:${expression.parameter}`, expression.part, expression.type);
    case 'binary': {
      const { operator } = expression;
      if (operator === '||') {
        const parts = joinedParts(expression);
        if (spelling.concat !== null) return `${spelling.concat}(${parts.map(print).join(', ')})`;
        return parts.map((part) => operand(part, precedence['||'] + 1)).join(' || ');
      }
      const strength = precedence[operator];
      const apart = isComparison(operator) ? withinComparison(precedence) : null;
      // Of - / % the right side does not associate.
      const right = operator === 'and' || operator === 'or' ? strength : strength + 1;
      return `${operand(expression.left, apart ?? strength)} ${operator} ${operand(expression.right, apart ?? right)}`;
    }
    case 'not':
      return `not ${operand(expression.operand, precedence.not)}`;
    case 'negate':
      return `- ${operand(expression.operand, precedence.negate)}`;
    case 'is null':
      return `${compared(expression.operand)} is ${expression.negated ? 'not ' : ''}null`;
    case 'in':
      return `${compared(expression.operand)} ${expression.negated ? 'not ' : ''}in ${
        expression.operand.kind === 'tuple'
          ? spelling.tuples(expression.items.map(print))
          : `(${expression.items.map(print).join(', ')})`
      }`;
    case 'in keys':
      if (expression.operand.kind === 'tuple')
        return spelling.inKeyTuples(print(expression.operand), expression.types, `:${expression.parameter}`);
      return spelling.inKeys(compared(expression.operand), `:${expression.parameter}`, expression.types[0] ?? '');
    case 'between':
      return `${compared(expression.operand)} ${expression.negated ? 'not ' : ''}between ${compared(expression.low)} and ${compared(expression.high)}`;
    case 'like':
      return `${compared(expression.operand)} ${expression.negated ? 'not ' : ''}like ${compared(expression.pattern)} escape ${spelling.string('\\')}`;
    case 'function':
      return `${expression.name}(${expression.args.map(print).join(', ')})`;
    case 'written':
      return expression.sql;
    case 'count rows':
      return 'count(*)';
    case 'json rows':
      return spelling.jsonRows(
        expression.lists.map((list) => list.map(print)),
        expression.orderBy.map((term) => printTerm(term, spelling)),
      );
    case 'row number': {
      const partition = expression.partition.length === 0 ? '' : `partition by ${expression.partition.map(print).join(', ')} `;
      const order = expression.orderBy.map((term) => printTerm(term, spelling)).join(', ');
      return `row_number() over (${partition}order by ${order})`;
    }
    case 'count distinct':
      return expression.operand.kind === 'tuple'
        ? spelling.countDistinct(expression.operand.items.map(print))
        : `count(distinct ${print(expression.operand)})`;
    case 'is true':
      return `${compared(expression.operand)} is ${expression.negated ? 'not ' : ''}true`;
    case 'cast':
      return `cast(${print(expression.operand)} as ${expression.type})`;
    case 'collate':
      return spelling.collate(operand(expression.operand, TIGHTEST), expression.collation);
    case 'trimmed':
      return `trim(trailing ${spelling.string(expression.of)} from ${print(expression.operand)})`;
    case 'convert':
      return `convert(${print(expression.operand)} using ${expression.charset})`;
    case 'case': {
      const branches = expression.branches.map((branch) => `when ${print(branch.when)} then ${print(branch.then)}`).join(' ');
      return `case ${branches}${expression.otherwise === null ? '' : ` else ${print(expression.otherwise)}`} end`;
    }
    case 'exists':
      return `${expression.negated ? 'not ' : ''}exists (\n${indented(indented(printQuery(expression.select, spelling)))}\n  )`;
    case 'in select':
      return `${compared(expression.operand)} in (\n${indented(indented(printQuery(expression.select, spelling)))}\n  )`;
    case 'in reach':
      return `${compared(expression.operand)} in (\n${indented(indented(printReach(expression.reach, spelling)))}\n  )`;
    case 'scalar':
      return `(\n${indented(indented(printQuery(expression.select, spelling)))}\n  )`;
  }
}

function joinedParts(expression: SqlExpression): SqlExpression[] {
  if (expression.kind !== 'binary' || expression.operator !== '||') return [expression];
  return [...joinedParts(expression.left), expression.right];
}

function printOperand(expression: SqlExpression, strength: number, spelling: Spelling): string {
  const printed = printExpression(expression, spelling);
  const binder = binderOf(expression, spelling);
  return (binder === null ? TIGHTEST : spelling.precedence[binder]) < strength ? `(${printed})` : printed;
}

/** What an expression is held together by; null where nothing from outside can reach into it. */
function binderOf(expression: SqlExpression, { concat }: Spelling): Binder | null {
  switch (expression.kind) {
    case 'binary':
      return expression.operator === '||' && concat !== null ? null : expression.operator;
    case 'exists':
      return expression.negated ? 'not' : null;
    case 'written':
      return 'or';
    case 'in keys':
    case 'in reach':
    case 'in select':
      return 'in';
    case 'not':
    case 'negate':
    case 'is null':
    case 'in':
    case 'between':
    case 'like':
    case 'is true':
      return expression.kind;
    default:
      return null;
  }
}

/** The lists of a row's values as a call of the function that makes one; several stand in a list of lists. */
export function nested(name: string, lists: readonly (readonly string[])[]): string {
  const made = lists.map((list) => `${name}(${list.join(', ')})`);
  return made.length === 1 ? (made[0] ?? '') : `${name}(${made.join(', ')})`;
}

/** The order in which an aggregate takes its rows. */
export function ordered(orderBy: readonly string[]): string {
  return orderBy.length === 0 ? '' : ` order by ${orderBy.join(', ')}`;
}
