import type { Query, Select, Source, SqlExpression, SqlOperator } from '../sql/index.js';

/** What a dialect says for itself; the rest of SQL is printed the same for all. */
export interface Spelling {
  /** A name as it stands in SQL: bare where that is safe, quoted otherwise. */
  quote(name: string): string;
  /** A test whether a value is among the keys bound as one list. */
  inKeys(operand: string, parameter: string): string;
  /** The same for a key of several parts, bound as a list of lists. */
  inKeyTuples(operand: string, parts: number, parameter: string): string;
  /** One part of a composite key that is bound as a list. */
  keyPart(parameter: string, part: number): string;
  /** A limit where only an offset was asked for. */
  readonly noLimit: string;
}

const WIDEST_LINE = 62;

const STRENGTH: Readonly<Record<SqlOperator, number>> = {
  or: 1,
  and: 2,
  '=': 4,
  '<>': 4,
  is: 4,
  'is not': 4,
  '<': 5,
  '<=': 5,
  '>': 5,
  '>=': 5,
  '+': 6,
  '-': 6,
  '*': 7,
  '/': 7,
  '%': 7,
  '||': 8,
};

/** SQL as a careful person would lay it out: one clause a line, conditions below each other. */
export function printQuery(query: Query, spelling: Spelling): string {
  if (query.kind === 'select') return printSelect(query, spelling);
  return query.selects.map((select) => printSelect(select, spelling)).join('\nunion all\n');
}

function printSelect(select: Select, spelling: Spelling): string {
  const expression = (inner: SqlExpression) => printExpression(inner, spelling);
  const lines: string[] = [];
  const columns = select.columns.map(({ expression: inner, as }) => {
    const printed = expression(inner);
    const implied = inner.kind === 'column' && inner.column === as;
    return as === null || implied ? printed : `${printed} as ${spelling.quote(as)}`;
  });
  lines.push(`select ${wrap(columns, 7)}`);
  lines.push(`from ${printSource(select.from, spelling)}`);
  for (const join of select.joins) {
    const head = `${join.kind === 'left' ? 'left join' : 'join'} ${printSource(join.source, spelling)}`;
    const on = `on ${expression(join.on)}`;
    lines.push(head.length + on.length < WIDEST_LINE ? `${head} ${on}` : `${head}\n  ${on}`);
  }
  if (select.where !== null)
    lines.push(
      `where ${conjuncts(select.where)
        .map((part) => printOperand(part, STRENGTH.and, spelling))
        .join('\n  and ')}`,
    );
  if (select.groupBy !== undefined) lines.push(`group by ${select.groupBy.map(expression).join(', ')}`);
  if (select.orderBy.length > 0) {
    lines.push(
      `order by ${select.orderBy.map((term) => `${expression(term.expression)}${term.descending ? ' desc' : ''}`).join(', ')}`,
    );
  }
  if (select.limit !== null) lines.push(`limit ${expression(select.limit)}`);
  else if (select.offset !== null) lines.push(`limit ${spelling.noLimit}`);
  if (select.offset !== null) lines.push(`offset ${expression(select.offset)}`);
  return lines.join('\n');
}

function conjuncts(condition: SqlExpression): SqlExpression[] {
  if (condition.kind !== 'binary' || condition.operator !== 'and') return [condition];
  return [...conjuncts(condition.left), ...conjuncts(condition.right)];
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
  const { schema, name } = source.from.table;
  const table = `${schema === null ? '' : `${spelling.quote(schema)}.`}${spelling.quote(name)}`;
  return source.alias === name ? table : `${table} ${spelling.quote(source.alias)}`;
}

function indented(text: string): string {
  return text
    .split('\n')
    .map((line) => `  ${line}`)
    .join('\n');
}

/** One expression on one line, with no bracket that its operators do not need. */
export function printExpression(expression: SqlExpression, spelling: Spelling): string {
  const print = (inner: SqlExpression) => printExpression(inner, spelling);
  const operand = (inner: SqlExpression, strength: number) => printOperand(inner, strength, spelling);
  switch (expression.kind) {
    case 'column':
      return `${expression.source === null ? '' : `${spelling.quote(expression.source)}.`}${spelling.quote(expression.column)}`;
    case 'parameter':
      return `:${expression.name}`;
    case 'number':
      return expression.text;
    case 'string':
      return `'${expression.value.replaceAll("'", "''")}'`;
    case 'null':
      return 'null';
    case 'tuple':
      return `(${expression.items.map(print).join(', ')})`;
    case 'key part':
      return spelling.keyPart(`:${expression.parameter}`, expression.part);
    case 'binary': {
      const strength = STRENGTH[expression.operator];
      // Comparisons do not chain, and - / % do not associate to the right.
      const left = operand(expression.left, strength === 4 || strength === 5 ? strength + 1 : strength);
      return `${left} ${expression.operator} ${operand(expression.right, strength + (strength > 2 ? 1 : 0))}`;
    }
    case 'not':
      return `not ${operand(expression.operand, 4)}`;
    case 'negate':
      return `- ${operand(expression.operand, 9)}`;
    case 'is null':
      return `${operand(expression.operand, 6)} is ${expression.negated ? 'not ' : ''}null`;
    case 'in':
      return `${operand(expression.operand, 6)} ${expression.negated ? 'not ' : ''}in (${expression.operand.kind === 'tuple' ? 'values ' : ''}${expression.items.map(print).join(', ')})`;
    case 'in keys':
      if (expression.operand.kind === 'tuple')
        return spelling.inKeyTuples(print(expression.operand), expression.operand.items.length, `:${expression.parameter}`);
      return spelling.inKeys(operand(expression.operand, 6), `:${expression.parameter}`);
    case 'between':
      return `${operand(expression.operand, 6)} ${expression.negated ? 'not ' : ''}between ${operand(expression.low, 6)} and ${operand(expression.high, 6)}`;
    case 'like':
      return `${operand(expression.operand, 6)} ${expression.negated ? 'not ' : ''}like ${operand(expression.pattern, 6)} escape '\\'`;
    case 'function':
      return `${expression.name}(${expression.args.map(print).join(', ')})`;
    case 'count rows':
      return 'count(*)';
    case 'count distinct':
      return `count(distinct ${print(expression.operand)})`;
    case 'is not true':
      return `${operand(expression.operand, 6)} is not true`;
    case 'cast':
      return `cast(${print(expression.operand)} as ${expression.type})`;
    case 'case': {
      const branches = expression.branches.map((branch) => `when ${print(branch.when)} then ${print(branch.then)}`).join(' ');
      return `case ${branches}${expression.otherwise === null ? '' : ` else ${print(expression.otherwise)}`} end`;
    }
    case 'exists':
      return `${expression.negated ? 'not ' : ''}exists (\n${indented(indented(printQuery(expression.select, spelling)))}\n  )`;
    case 'scalar':
      return `(\n${indented(indented(printQuery(expression.select, spelling)))}\n  )`;
  }
}

function printOperand(expression: SqlExpression, strength: number, spelling: Spelling): string {
  const printed = printExpression(expression, spelling);
  return strengthOf(expression) < strength ? `(${printed})` : printed;
}

function strengthOf(expression: SqlExpression): number {
  switch (expression.kind) {
    case 'binary':
      return STRENGTH[expression.operator];
    case 'not':
      return 3;
    case 'exists':
      return expression.negated ? 3 : 10;
    case 'is null':
    case 'in':
    case 'in keys':
    case 'between':
    case 'like':
    case 'is not true':
      return 4;
    case 'negate':
      return 9;
    default:
      return 10;
  }
}
