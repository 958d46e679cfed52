import { didYouMean, type Expr, withArticle } from '../notation/index.js';
import { commonNumber, familyOf, parseWire, resultOf, type ValueType } from '../values/index.js';
import { AGGREGATES, isOfGroup, resolveAggregate } from './aggregates.js';
import type { Context, ExpressionReading } from './context.js';
import { describeType } from './describe-type.js';
import { findEntity, lineageOf, wrong } from './draft.js';
import { type Expression, type ExpressionType, FUNCTIONS, type FunctionName, type Quantifier, type Role } from './expression.js';
import { asComparisons, foundRowBeside, isFoundRow } from './found-rows.js';
import { groupTerm, notGrouped } from './groups.js';
import { listAlone, referToParameter, resolveInList } from './lists.js';
import type { PolymorphicRole } from './model.js';
import { branchTo, endsInSeveral, narrowTo, resolvePathExpression, resolveQuantified, walkTo } from './paths.js';

const BOOLEAN: ValueType = { kind: 'boolean' };
const INTEGER: ValueType = { kind: 'integer' };
const TEXT: ValueType = { kind: 'text', length: null };
const QUANTIFIERS: readonly Quantifier[] = ['any', 'none', 'all', 'count'];

/** How many values each function takes, least and most. */
const ARITY: Readonly<Record<FunctionName, readonly [number, number]>> = {
  lower: [1, 1],
  upper: [1, 1],
  length: [1, 1],
  trim: [1, 1],
  coalesce: [2, 20],
  abs: [1, 1],
  round: [1, 2],
  least: [2, 20],
  greatest: [2, 20],
  substr: [2, 3],
  replace: [3, 3],
};

/**
 * An expression with its names and types resolved. Null where it does not stand; a finding then says why, with the
 * place and a way out.
 */
export function resolveExpression(context: Context, expr: Expr): Expression | null {
  const term = context.group === undefined ? null : groupTerm(context, context.group, expr);
  if (term !== null) return term;
  switch (expr.kind) {
    case 'number':
      return { kind: 'value', value: expr.text, type: numberType(expr.text), span: expr.span };
    case 'text': {
      const read = parseWire(TEXT, expr.value);
      if (!read.ok) return wrong(context.resolution, 'literal-type', expr.span, `${context.label}: ${read.problem}`);
      return { kind: 'value', value: expr.value, type: TEXT, span: expr.span };
    }
    case 'boolean':
      return { kind: 'value', value: expr.value, type: BOOLEAN, span: expr.span };
    case 'null':
      return { kind: 'value', value: null, type: { kind: 'null' }, span: expr.span };
    case 'today':
    case 'now':
      if (context.reach === 'row') return impure(context, expr, expr.kind);
      return { kind: 'clock', which: expr.kind, type: { kind: expr.kind === 'today' ? 'date' : 'timestamp' }, span: expr.span };
    case 'interval':
      return { kind: 'interval', amount: expr.amount, unit: expr.unit, type: { kind: 'interval' }, span: expr.span };
    case 'parameter':
      return resolveParameter(context, expr);
    case 'path':
      return resolvePathExpression(context, expr.path);
    case 'call':
      return resolveCall(context, expr);
    case 'binary':
      return resolveBinary(context, expr);
    case 'not': {
      const operand = resolveCondition(context, expr.operand);
      return operand === null ? null : { kind: 'not', operand, type: BOOLEAN, span: expr.span };
    }
    case 'negate': {
      const operand = resolveExpression(context, expr.operand);
      if (operand === null) return null;
      if (isNumber(operand.type) || operand.type.kind === 'null')
        return { kind: 'negate', operand, type: operand.type, span: expr.span };
      return mismatch(context, expr, `- stands before a number, and this is ${describeType(operand.type)}.`);
    }
    case 'is null':
      return resolveIsNull(context, expr);
    case 'is a':
      return resolveIsA(context, expr);
    case 'in':
      return resolveIn(context, expr);
    case 'between':
      return resolveBetween(context, expr);
    case 'like':
      return resolveLike(context, expr);
    case 'case':
      return resolveCase(context, expr);
  }
}

function resolveParameter(context: Context, expr: Extract<Expr, { kind: 'parameter' }>): Expression | null {
  if (context.reach === 'row') return impure(context, expr, `:${expr.name}`);
  const type = context.parameters.get(expr.name);
  if (context.lists?.has(expr.name) === true) return listAlone(context, expr);
  if (type !== undefined) {
    referToParameter(context, expr);
    return { kind: 'parameter', name: expr.name, type, span: expr.span };
  }
  const declared = context.query === null ? '' : ` Declare it behind the query’s name, as in “(${expr.name} text)”.`;
  return wrong(
    context.resolution,
    'unknown-parameter',
    expr.span,
    `${context.label}: there is no parameter :${expr.name}.${didYouMean(expr.name, context.parameters.keys()) || declared}`,
  );
}

/** `owner is null` of a value, or of a role to several entities: then it is asked which of its branches points at a row. */
function resolveIsNull(context: Context, expr: Extract<Expr, { kind: 'is null' }>): Expression | null {
  const several = severalBehind(context, expr.operand);
  if (several !== null)
    return {
      kind: 'points at',
      hops: several.hops,
      branches: several.role.branches,
      negated: !expr.negated,
      type: BOOLEAN,
      span: expr.span,
    };
  const operand = resolveExpression(context, expr.operand);
  return operand === null ? null : { kind: 'is null', operand, negated: expr.negated, type: BOOLEAN, span: expr.span };
}

function resolveIn(context: Context, expr: Extract<Expr, { kind: 'in' }>): Expression | null {
  if (expr.list) return resolveInList(context, expr);
  if (expr.items.some(isFoundRow)) return resolveExpression(context, asComparisons(expr));
  const several = severalBehind(context, expr.operand);
  if (several !== null) return resolveAmong(context, expr, several);
  const operand = resolveExpression(context, expr.operand);
  const items = expr.items.map((item) => resolveExpression(context, item));
  if (operand === null) return null;
  const fitted = items.map((item) => (item === null ? null : fitTo(context, item, operand.type)));
  if (fitted.some((item) => item === null)) return null;
  return {
    kind: 'in',
    operand,
    items: fitted.filter((item) => item !== null),
    negated: expr.negated,
    type: BOOLEAN,
    span: expr.span,
  };
}

function resolveBetween(context: Context, expr: Extract<Expr, { kind: 'between' }>): Expression | null {
  const operand = resolveExpression(context, expr.operand);
  const low = resolveExpression(context, expr.low);
  const high = resolveExpression(context, expr.high);
  if (operand === null || low === null || high === null) return null;
  const [first, second, third] = unified(context, [operand, low, high]) ?? [];
  return first === undefined || second === undefined || third === undefined
    ? null
    : { kind: 'between', operand: first, low: second, high: third, negated: expr.negated, type: BOOLEAN, span: expr.span };
}

function resolveLike(context: Context, expr: Extract<Expr, { kind: 'like' }>): Expression | null {
  const operand = resolveExpression(context, expr.operand);
  const pattern = resolveExpression(context, expr.pattern);
  if (operand === null || pattern === null) return null;
  for (const side of [operand, pattern]) {
    if (!isText(side.type)) return mismatch(context, expr, `like compares texts, and this is ${describeType(side.type)}.`);
  }
  return { kind: 'like', operand, pattern, negated: expr.negated, type: BOOLEAN, span: expr.span };
}

function resolveCase(context: Context, expr: Extract<Expr, { kind: 'case' }>): Expression | null {
  const branches = expr.branches.map((branch) => ({
    when: resolveCondition(context, branch.when),
    then: resolveExpression(context, branch.then),
  }));
  const otherwise = expr.otherwise === null ? null : resolveExpression(context, expr.otherwise);
  if (expr.otherwise !== null && otherwise === null) return null;
  const whens = branches.map((branch) => branch.when).filter((when) => when !== null);
  const thens = branches.map((branch) => branch.then).filter((then) => then !== null);
  if (whens.length < branches.length || thens.length < branches.length) return null;
  const results = unified(context, [...thens, ...(otherwise === null ? [] : [otherwise])]);
  if (results === null) return null;
  const resolved = whens.flatMap((when, index) => {
    const then = results[index];
    return then === undefined ? [] : [{ when, then }];
  });
  return {
    kind: 'case',
    branches: resolved,
    otherwise: otherwise === null ? null : (results.at(-1) ?? null),
    type: commonType(results),
    span: expr.span,
  };
}

/** An expression that is true, false or unknown. */
export function resolveCondition(context: Context, expr: Expr): Expression | null {
  const condition = resolveExpression(context, expr);
  if (condition === null) return null;
  if (condition.type.kind === 'boolean' || condition.type.kind === 'null') return condition;
  return mismatch(
    context,
    expr,
    `this is ${describeType(condition.type)}, where a condition is meant. Compare it with something.`,
  );
}

function resolveCall(context: Context, expr: Extract<Expr, { kind: 'call' }>): Expression | null {
  const name = expr.name.text;
  const aggregate = AGGREGATES.find((one) => one === name);
  if (aggregate !== undefined || (name === 'count' && isOfGroup(context, expr)))
    return resolveAggregate(context, expr, aggregate ?? 'count');
  const quantifier = QUANTIFIERS.find((one) => one === name);
  if (quantifier !== undefined) return resolveQuantified(context, expr, quantifier);
  const known = FUNCTIONS.find((candidate) => candidate === name);
  if (known === undefined) {
    return wrong(
      context.resolution,
      'unknown-function',
      expr.name.span,
      `${context.label}: there is no function ${name}.${didYouMean(name, [...FUNCTIONS, ...QUANTIFIERS, ...AGGREGATES])}`,
    );
  }
  const [least, most] = ARITY[known];
  if (expr.star || expr.args.length < least || expr.args.length > most) {
    return wrong(
      context.resolution,
      'function-arity',
      expr.span,
      `${context.label}: ${name} takes ${least === most ? least : `${least} to ${most}`} value${most === 1 ? '' : 's'}.`,
    );
  }
  const resolved = expr.args.map((arg) => resolveExpression(context, arg));
  const args = resolved.filter((arg) => arg !== null);
  const first = args[0];
  if (args.length < resolved.length || first === undefined) return null;
  const done = (type: ExpressionType, all: readonly Expression[] = args): Expression => ({
    kind: 'function',
    name: known,
    args: all,
    type,
    span: expr.span,
  });
  const refuse = (what: string) => mismatch(context, expr, `${name} takes ${what}, and this is ${describeType(first.type)}.`);
  switch (known) {
    case 'lower':
    case 'upper':
    case 'trim':
      return isText(first.type) ? done(TEXT) : refuse('a text');
    case 'replace':
    case 'substr':
      return isText(first.type) ? done(TEXT) : refuse('a text first');
    case 'length':
      return isText(first.type) ? done(INTEGER) : refuse('a text');
    case 'abs':
      return isNumber(first.type) ? done(first.type) : refuse('a number');
    case 'round':
      return isNumber(first.type) ? done(roundedType(first.type, args[1])) : refuse('a number');
    case 'coalesce':
    case 'least':
    case 'greatest': {
      const same = unified(context, args);
      if (same === null) return null;
      return done(commonType(same), same);
    }
  }
}

function resolveBinary(context: Context, expr: Extract<Expr, { kind: 'binary' }>): Expression | null {
  const { operator } = expr;
  if (operator === 'and' || operator === 'or') {
    const left = resolveCondition(context, expr.left);
    const right = resolveCondition(context, expr.right);
    return left === null || right === null ? null : { kind: 'binary', operator, left, right, type: BOOLEAN, span: expr.span };
  }
  if (operator === '=' || operator === '<>') {
    const found = foundRowBeside(context, expr);
    if (found !== undefined) return found;
    const beside = besideSeveral(context, expr);
    if (beside !== null) return comparedWithRow(context, beside.several, beside.row, operator, expr.span);
  }
  const left = resolveExpression(context, expr.left);
  const right = resolveExpression(context, expr.right);
  if (left === null || right === null) return null;
  const made = (type: ExpressionType, a: Expression = left, b: Expression = right): Expression => ({
    kind: 'binary',
    operator,
    left: a,
    right: b,
    type,
    span: expr.span,
  });
  if (operator === '||') {
    for (const side of [left, right])
      if (side.type.kind === 'row' || side.type.kind === 'interval')
        return mismatch(context, expr, `|| joins texts, and this is ${describeType(side.type)}.`);
    return made(TEXT);
  }
  if (['+', '-', '*', '/', '%'].includes(operator)) return resolveArithmetic(context, expr, operator as '+', left, right, made);
  const sides = unified(context, [left, right]);
  const [a, b] = sides ?? [];
  if (a === undefined || b === undefined) return null;
  if (a.type.kind === 'row' && operator !== '=' && operator !== '<>')
    return mismatch(context, expr, 'rows are compared with = or <> only.');
  const nothing = [a, b].find((side) => side.type.kind === 'null');
  if (nothing !== undefined) {
    return wrong(
      context.resolution,
      'compared-with-null',
      expr.span,
      `${context.label}: nothing equals null. Write “is null” or “is not null”.`,
    );
  }
  return made(BOOLEAN, a, b);
}

/** A role that leads to several entities, on either side of a comparison, and what it is compared with. */
function besideSeveral(
  context: Context,
  { left, right }: Extract<Expr, { kind: 'binary' }>,
): { readonly several: Several; readonly row: Expr } | null {
  const first = severalBehind(context, left);
  if (first !== null) return { several: first, row: right };
  const second = severalBehind(context, right);
  return second === null ? null : { several: second, row: left };
}

/** `subject = Hall(1)`: is the row behind a role to several this one? Whatever is behind another branch is another row. */
function comparedWithRow(
  context: Context,
  { hops, role }: Several,
  written: Expr,
  operator: '=' | '<>',
  span: Expr['span'],
): Expression | null {
  const row = resolveExpression(context, written);
  if (row === null) return null;
  const entity = row.type.kind === 'row' ? context.resolution.entities.get(row.type.entity) : undefined;
  const branch = entity === undefined ? null : branchTo(context.resolution, role, entity);
  if (entity === undefined || branch === null) {
    const targets = role.branches.map(({ target }) => target).join(', ');
    return wrong(
      context.resolution,
      'type-mismatch',
      written.span,
      `${context.label}: ${role.name} leads to ${targets}, and this is ${describeType(row.type)}.`,
    );
  }
  const same: Expression = { kind: 'same row', hops, branches: role.branches, branch, row, type: BOOLEAN, span };
  return operator === '=' ? same : { kind: 'not', operand: same, type: BOOLEAN, span };
}

/** `subject in (Hall(1), Player(2))`: is it one of them; or none. */
function resolveAmong(context: Context, expr: Extract<Expr, { kind: 'in' }>, several: Several): Expression | null {
  const made = expr.items.map((item) => comparedWithRow(context, several, item, '=', expr.span));
  const parts = made.filter((part) => part !== null);
  if (parts.length < made.length) return null;
  const one = parts.reduce((left, right) => ({ kind: 'binary', operator: 'or', left, right, type: BOOLEAN, span: expr.span }));
  return expr.negated ? { kind: 'not', operand: one, type: BOOLEAN, span: expr.span } : one;
}

/** A role that leads to several entities, with the hops before it. */
interface Several {
  readonly hops: readonly Role[];
  readonly role: PolymorphicRole;
}

/** The polymorphic role that an expression ends at, with the hops before it; null for any other expression. */
function severalBehind(context: Context, expr: Expr): Several | null {
  if (expr.kind !== 'path' || context.entity === null || context.reach !== 'all' || context.group !== undefined) return null;
  const { path } = expr;
  if (!endsInSeveral(context, path)) return null;
  const walked = walkTo(context, path);
  return walked?.polymorphic == null ? null : { hops: walked.hops, role: walked.polymorphic };
}

/** `subject is an Ensemble`: of a polymorphic role, or of a base's row. */
function resolveIsA(context: Context, expr: Extract<Expr, { kind: 'is a' }>): Expression | null {
  const { resolution, label } = context;
  const { operand } = expr;
  if ((operand !== null && operand.kind !== 'path') || context.entity === null)
    return mismatch(context, expr, 'what kind a row is, is asked of a role, as in “subject is an Ensemble”.');
  if (context.reach !== 'all') return impure(context, expr, 'what kind a row is');
  if (context.group !== undefined) return notGrouped(context, expr.span);
  const entity = findEntity(resolution, expr.entity, label);
  if (entity === null) return null;
  const common = { negated: expr.negated, type: BOOLEAN, span: expr.span };
  const kinds = entity.kinds?.concrete.map((kind) => kind.entity) ?? [];
  const never = (known: string) =>
    wrong(
      resolution,
      'never-a-kind',
      expr.entity.span,
      `${label}: no ${known} is ever ${withArticle(entity.name)}, so this asks nothing.`,
    );
  if (operand === null) {
    const own = context.entity.name;
    return lineageOf(entity).some(({ name }) => name === own) ? { kind: 'is kind', hops: [], kinds, ...common } : never(own);
  }
  const walked = walkTo(context, operand.path);
  if (walked === null) return null;
  if (walked.polymorphic === null) {
    const last = walked.hops.at(-1);
    if (narrowTo(last, entity) === null) return never(last?.target ?? '');
    return { kind: 'is kind', hops: walked.hops, kinds, ...common };
  }
  const { branches } = walked.polymorphic;
  const branch = branchTo(resolution, walked.polymorphic, entity);
  if (branch === null) return never(branches.map(({ target }) => target).join(' or '));
  const whole = branches.some(({ target }) => target === entity.name) || entity.kinds?.storage.kind === 'separate tables';
  if (whole) return { kind: 'points at', hops: walked.hops, branches: [branch], ...common };
  const base = branches.find(({ target }) => lineageOf(entity).some(({ name }) => name === target));
  return base === undefined ? null : { kind: 'is kind', hops: [...walked.hops, base], kinds, ...common };
}

function resolveArithmetic(
  context: Context,
  expr: Expr,
  operator: '+' | '-' | '*' | '/' | '%',
  left: Expression,
  right: Expression,
  made: (type: ExpressionType, a?: Expression, b?: Expression) => Expression,
): Expression | null {
  const isMoment = (type: ExpressionType) => type.kind === 'date' || type.kind === 'timestamp' || type.kind === 'time';
  if (right.type.kind === 'interval' && (operator === '+' || operator === '-')) {
    if (isMoment(left.type)) return made(left.type);
    return mismatch(context, expr, `an interval moves a date or time, and this is ${describeType(left.type)}.`);
  }
  if (operator === '-' && left.type.kind === 'date' && right.type.kind === 'date') return made(INTEGER);
  if (left.type.kind === 'null' || right.type.kind === 'null') return made(left.type.kind === 'null' ? right.type : left.type);
  if (isValue(left.type) && isValue(right.type) && isNumber(left.type) && isNumber(right.type))
    return made(arithmeticType(operator, left, right, left.type, right.type));
  return mismatch(
    context,
    expr,
    `${operator} takes numbers${operator === '+' || operator === '-' ? ', or a date and days as in “today + 7 days”' : ''}; this is ${describeType(left.type)} and ${describeType(right.type)}.`,
  );
}

/** Brings several expressions to one type; a text literal takes the type of what it is compared with. */
function unified(context: Context, expressions: readonly Expression[]): Expression[] | null {
  const model =
    expressions.find((candidate) => candidate.type.kind !== 'null' && candidate.kind !== 'value') ??
    expressions.find((candidate) => candidate.type.kind !== 'null');
  if (model === undefined) return [...expressions];
  const fitted = expressions.map((candidate) => fitTo(context, candidate, model.type));
  const all = fitted.filter((candidate) => candidate !== null);
  return all.length < fitted.length ? null : all;
}

function arithmeticType(
  operator: '+' | '-' | '*' | '/' | '%',
  left: Expression,
  right: Expression,
  one: ValueType,
  other: ValueType,
): ValueType {
  if (one.kind !== 'decimal' && other.kind !== 'decimal') return resultOf(operator, one, other);
  return resultOf(operator, numberOf(left, one), numberOf(right, other));
}

/** The type of a value that is one of several: of numbers the widest, so that no digit of any is lost. */
function commonType(expressions: readonly Expression[]): ExpressionType {
  const known = expressions.filter(({ type }) => type.kind !== 'null');
  const decimal = known.some(({ type }) => type.kind === 'decimal');
  const values = known.flatMap((expression) =>
    isValue(expression.type) ? [decimal ? numberOf(expression, expression.type) : expression.type] : [],
  );
  const number = values.length === known.length && values.length > 0 ? commonNumber(values) : null;
  return number ?? known[0]?.type ?? { kind: 'null' };
}

/** A number's type; of a whole number that stands in the text, beside a decimal, no more digits than it has. */
function numberOf(expression: Expression, type: ValueType): ValueType {
  if (expression.kind !== 'value' || (type.kind !== 'integer' && type.kind !== 'bigint')) return type;
  return { kind: 'decimal', precision: String(expression.value).replace('-', '').length, scale: 0 };
}

/** Rounded to places that are known, a decimal has no more of them. */
function roundedType(type: ExpressionType, places: Expression | undefined): ExpressionType {
  if (type.kind !== 'decimal' || (places !== undefined && places.kind !== 'value')) return type;
  const kept = Number(places?.value ?? 0);
  return { ...type, scale: Math.min(type.scale, Math.max(0, kept)) };
}

/** An expression as a given type: as it is where the families agree, a literal read as the type, else null. */
export function fitTo(
  context: Context,
  expression: Expression,
  wanted: ExpressionType,
  use: 'compared with' | 'set to' = 'compared with',
): Expression | null {
  const { type } = expression;
  if (type.kind === 'null' || wanted.kind === 'null') return expression;
  if (wanted.kind === 'row' || type.kind === 'row') {
    if (wanted.kind === 'row' && type.kind === 'row' && related(context, wanted.entity, type.entity)) return expression;
    const [row, other] = wanted.kind === 'row' ? [wanted, type] : [type as Extract<ExpressionType, { kind: 'row' }>, wanted];
    const hint =
      row.kind === 'row' ? ` Compare it with a parameter of type ${row.entity}, or with a row like ${row.entity}(1).` : '';
    return wrong(
      context.resolution,
      'type-mismatch',
      expression.span,
      `${context.label}: ${describeType(row)} cannot be ${use} ${describeType(other)}.${hint}`,
    );
  }
  if (wanted.kind === 'interval' || type.kind === 'interval') {
    return wrong(
      context.resolution,
      'type-mismatch',
      expression.span,
      `${context.label}: an interval is added to a date or time, and not compared.`,
    );
  }
  const wantedFamily = familyOf(wanted);
  const family = familyOf(type);
  if (
    expression.kind === 'value' &&
    typeof expression.value === 'string' &&
    family === 'text' &&
    wantedFamily !== 'text' &&
    wantedFamily !== 'number' &&
    wantedFamily !== 'any'
  ) {
    const parsed = parseWire(wanted, expression.value);
    if (!parsed.ok) return wrong(context.resolution, 'literal-type', expression.span, `${context.label}: ${parsed.problem}`);
    return { ...expression, value: parsed.value, type: wanted };
  }
  if (
    expression.kind === 'value' &&
    wanted.kind === 'choice' &&
    typeof expression.value === 'string' &&
    !wanted.values.includes(expression.value)
  ) {
    const near = didYouMean(expression.value, wanted.values);
    return wrong(
      context.resolution,
      'not-in-choice',
      expression.span,
      `${context.label}: '${expression.value}' is no value of ${wanted.choice}.${near}`,
    );
  }
  if (family === wantedFamily || family === 'any' || wantedFamily === 'any') return expression;
  if (new Set([family, wantedFamily]).size === 2 && [family, wantedFamily].every((one) => one === 'date' || one === 'timestamp'))
    return expression;
  return wrong(
    context.resolution,
    'type-mismatch',
    expression.span,
    `${context.label}: ${describeType(wanted)} cannot be ${use} ${describeType(type)}.`,
  );
}

/** Can a row be one of both: is one the other, or a kind of it? */
function related({ resolution }: Context, one: string, other: string): boolean {
  const isA = (name: string, base: string) => {
    const entity = resolution.entities.get(name);
    return entity !== undefined && lineageOf(entity).some((above) => above.name === base);
  };
  return isA(one, other) || isA(other, one);
}

function mismatch(context: Context, expr: Expr, what: string): null {
  return wrong(context.resolution, 'type-mismatch', expr.span, `${context.label}: ${what}`);
}

function impure(context: Context, expr: Expr, what: string): null {
  return wrong(
    context.resolution,
    'impure-check',
    expr.span,
    `${context.label}: a check holds for a row whenever it is looked at, so it cannot use ${what}. Make it a rule or a scope.`,
  );
}

function isValue(type: ExpressionType): type is ValueType {
  return type.kind !== 'row' && type.kind !== 'interval' && type.kind !== 'null';
}

function isNumber(type: ExpressionType): boolean {
  return isValue(type) && (familyOf(type) === 'number' || type.kind === 'sql');
}

function isText(type: ExpressionType): boolean {
  return type.kind === 'null' || (isValue(type) && (familyOf(type) === 'text' || type.kind === 'sql' || type.kind === 'uuid'));
}

function numberType(text: string): ValueType {
  const fraction = text.split('.')[1];
  if (fraction !== undefined) return { kind: 'decimal', precision: Math.min(65, text.length - 1), scale: fraction.length };
  return parseWire(INTEGER, text).ok ? INTEGER : { kind: 'bigint' };
}

/** Reads expressions, and the paths in them. */
export const reading: ExpressionReading = { expression: resolveExpression, condition: resolveCondition };
