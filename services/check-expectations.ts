import type { Design } from '../core/design/index.js';
import { keyOfRow } from '../core/load/index.js';
import { type Expectation, type ExpectedLine, type Expression, entityOf, queryOf } from '../core/model/index.js';
import type { Span } from '../core/notation/index.js';
import { planQuery } from '../core/plan/index.js';
import { evaluate } from '../core/samples/index.js';
import type { Wire } from '../core/values/index.js';
import type { Engine } from '../engines/index.js';
import { type DoOutcome, doCommands } from './do-commands.js';
import { keyOfAnswer } from './given-parameters.js';
import { preparedFor } from './looked-at.js';
import { type RunAnswer, runQuery } from './run-query.js';

/** The database that expectations are held against. */
export interface ExpectedOf {
  readonly engine: Engine;
  /** Where commands are carried out and taken back; or why none can be. */
  readonly writable: Engine | { readonly problem: string };
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  readonly madeHere: boolean;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  readonly signal?: AbortSignal;
}

/** How a line of an expectation came out. */
export interface HeldLine {
  readonly text: string;
  readonly span: Span;
  /** Why it does not hold, in words; null where it does. */
  readonly broken: string | null;
}

/** How an expectation came out. */
export interface ExpectationRun {
  /** As the text has it, without its first word. */
  readonly label: string;
  /** The saved query that it is of; null for a command. */
  readonly query: string | null;
  readonly span: Span;
  readonly lines: readonly HeldLine[];
  /** Why it could not be tried; null where it was. */
  readonly problem: string | null;
  readonly milliseconds: number;
}

/** Whether all of an expectation holds. */
export function isHeld({ lines, problem }: ExpectationRun): boolean {
  return problem === null && lines.every(({ broken }) => broken === null);
}

/** As many rows of an answer are looked at. */
const MOST_ROWS = 100_000;
/** Rows that are named where a condition does not hold. */
const MOST_NAMED = 5;

/** Holds what a text expects against a database, one expectation after the other; what commands write is taken back. */
export async function checkExpectations(design: Design, of: ExpectedOf): Promise<readonly ExpectationRun[]> {
  const runs: ExpectationRun[] = [];
  for (const expectation of design.expectations) {
    if (of.signal?.aborted === true) break;
    const started = performance.now();
    const { subject, head, span } = expectation;
    const tried = subject.kind === 'query' ? await queried(design, of, expectation) : await commanded(design, of, expectation);
    runs.push({
      label: design.text.slice(head.start, head.end).replace(/^expect\s+/, ''),
      query: subject.kind === 'query' ? subject.query.name : null,
      span,
      ...('problem' in tried ? { lines: [], problem: tried.problem } : { lines: tried.lines, problem: null }),
      milliseconds: performance.now() - started,
    });
  }
  return runs;
}

type Tried = { readonly lines: readonly HeldLine[] } | { readonly problem: string };

function heldLine({ text }: Design, line: ExpectedLine, broken: string | null): HeldLine {
  return { text: text.slice(line.span.start, line.span.end), span: line.span, broken };
}

async function commanded(design: Design, of: ExpectedOf, { subject, actor, lines }: Expectation): Promise<Tried> {
  if (subject.kind !== 'command') return { problem: 'This is no command.' };
  const { writable, sampleKeys, madeHere, now, signal } = of;
  if ('problem' in writable) return writable;
  const { span } = subject.command;
  const text = design.text.slice(span.start, span.end);
  const request = { text, sampleKeys, madeHere, now, rehearse: true, ...(signal === undefined ? {} : { signal }) };
  const outcome = await doCommands(design, writable, { ...request, as: actor });
  const why = whyNot(outcome);
  // What the system could not do either is refused for another reason than who asks.
  const isAsked = actor.kind !== 'system' && !outcome.ok && lines.some(({ kind }) => kind === 'refused');
  const bySystem = isAsked ? await doCommands(design, writable, request) : null;
  const otherwise = bySystem === null ? '' : whyNot(bySystem);
  return {
    lines: lines.map((line) => {
      if (line.kind === 'done') return heldLine(design, line, outcome.ok ? null : `It was refused: ${why}`);
      if (outcome.ok) return heldLine(design, line, 'It was done, and not refused.');
      return heldLine(design, line, otherwise === '' ? null : `The system could not do it either: ${otherwise}`);
    }),
  };
}

/** Why commands were not carried out; empty where they were. */
function whyNot(outcome: DoOutcome): string {
  return outcome.ok ? '' : [...outcome.findings.map(({ message }) => message), ...outcome.problems].join(' ');
}

async function queried(design: Design, of: ExpectedOf, { subject, actor, lines }: Expectation): Promise<Tried> {
  if (subject.kind !== 'query') return { problem: 'This is no query.' };
  const { engine, sampleKeys, madeHere, now, signal } = of;
  const parameters: Record<string, string | null> = {};
  for (const [at, argument] of subject.args.entries()) {
    const written = argumentText(argument, of);
    const name = subject.query.parameters[at]?.name ?? '';
    if (written === undefined) return { problem: `${name}: this value is not one that stands by itself.` };
    parameters[name] = written;
  }
  const outcome = await runQuery(design, engine, {
    as: actor,
    query: { kind: 'saved', name: subject.query.name ?? '' },
    parameters,
    sampleKeys,
    madeHere,
    now,
    rowLimit: MOST_ROWS,
    explained: 'not',
    ...(signal === undefined ? {} : { signal }),
  });
  const why = outcome.ok ? '' : [...outcome.findings.map(({ message }) => message), ...outcome.problems].join(' ');
  const held: HeldLine[] = [];
  for (const line of lines) {
    if (line.kind === 'fails') held.push(heldLine(design, line, outcome.ok ? 'It answered, and did not fail.' : null));
    else if (!outcome.ok) held.push(heldLine(design, line, `It failed: ${why}`));
    else held.push(heldLine(design, line, await brokenBy(design, of, outcome.answer, line)));
  }
  return { lines: held };
}

/** A value as it is given for a parameter; undefined where it does not stand by itself. */
function argumentText(argument: Expression, { sampleKeys, now }: ExpectedOf): string | null | undefined {
  if (argument.kind === 'sample row') {
    const name = `${argument.entity}(${argument.row})`;
    const key = Object.hasOwn(sampleKeys, name) ? sampleKeys[name] : undefined;
    return key === undefined ? undefined : String(key);
  }
  const value = argument.kind === 'value' ? argument.value : evaluate(argument, () => null, now);
  if (value === undefined || value === null) return value;
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}

/** Why a line does not hold of an answer; null where it does. */
async function brokenBy(design: Design, of: ExpectedOf, answer: RunAnswer, line: ExpectedLine): Promise<string | null> {
  switch (line.kind) {
    case 'rows': {
      const more = answer.cuts.some(({ path }) => path === '');
      const rows = rowsIn(answer);
      return isWithin(line, rows)
        ? null
        : `There ${rows === 1 ? 'is 1 row' : `are ${rows}${more ? ' rows, or more' : ' rows'}`}.`;
    }
    case 'statements': {
      const statements = answer.log.reduce((sum, { times }) => sum + times, 0);
      return isWithin(line, statements) ? null : `It took ${statements} statements.`;
    }
    case 'every row':
    case 'no row':
      return rowsAgainst(design, of, answer, line);
    case 'fails':
    case 'done':
    case 'refused':
      return null;
  }
}

/** How many rows an answer has; of a count the number, and of “exists” one or none. */
function rowsIn({ cardinality, rows, text }: RunAnswer): number {
  if (cardinality !== 'count' && cardinality !== 'exists') return rows;
  const [line] = JSON.parse(text) as readonly Readonly<Record<string, unknown>>[];
  return Number(line?.count ?? line?.exists ?? 0);
}

function isWithin({ bound, count }: Extract<ExpectedLine, { kind: 'rows' | 'statements' }>, found: number): boolean {
  switch (bound) {
    case 'exactly':
      return found === count;
    case 'at most':
      return found <= count;
    case 'at least':
      return found >= count;
  }
}

type RowLine = Extract<ExpectedLine, { kind: 'every row' | 'no row' }>;

/** Asks which of the rows of an answer stand against a line, by their keys. */
async function rowsAgainst(design: Design, of: ExpectedOf, answer: RunAnswer, line: RowLine): Promise<string | null> {
  const { model, dialect } = design;
  const { engine, sampleKeys, madeHere, now, signal } = of;
  const rows = JSON.parse(answer.text) as readonly Readonly<Record<string, unknown>>[];
  if (rows.length === 0) return null;
  const entity = entityOf(model, answer.entity);
  const keys = rows.map((row) => keyOfRow(entity, row));
  const plan = planQuery(model, queryOf(answer.entity, { where: [against(line)] }), { byKeys: true, titled: true });
  const ready = preparedFor({ design, sampleKeys, madeHere }, plan, { now });
  if (!ready.ok) return ready.problems.join(' ');
  const { prepared } = ready;
  const bound = { ...prepared.parameters, keys: dialect.values.bindKeys(entity.key.type, keys) };
  const input = { prepared: { ...prepared, parameters: bound }, rowLimit: MOST_ROWS };
  const call = { patient: true, ...(signal === undefined ? {} : { signal }) };
  const loaded = await engine.run('load', input, call);
  if (!loaded.ok) return loaded.problem.message;
  if (loaded.value.rows === 0) return null;
  const found = JSON.parse(loaded.value.text) as readonly Readonly<Record<string, unknown>>[];
  const named = found.slice(0, MOST_NAMED).map((row) => `${answer.entity}(${keyOfAnswer(design, answer.entity, row)})`);
  const many = `${found.length.toLocaleString('en')} of ${rows.length.toLocaleString('en')} rows`;
  const verb = line.kind === 'every row' ? (found.length === 1 ? 'does not' : 'do not') : found.length === 1 ? 'does' : 'do';
  return `${many} ${verb}: ${named.join(', ')}${found.length > named.length ? ', …' : ''}.`;
}

/** The condition on a row that stands against a line: that it is true, or that it is not, be it false or unknown. */
function against({ kind, condition }: RowLine): Expression {
  if (kind === 'no row') return condition;
  const { span } = condition;
  const type = { kind: 'boolean' } as const;
  const truth = (value: boolean): Expression => ({ kind: 'value', value, type, span });
  const isTrue: Expression = {
    kind: 'case',
    branches: [{ when: condition, then: truth(true) }],
    otherwise: truth(false),
    type,
    span,
  };
  return { kind: 'binary', operator: '=', left: isTrue, right: truth(false), type, span };
}
