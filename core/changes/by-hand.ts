import type { DialectName } from '../notation/index.js';
import { sqlTokens, statementsOf } from '../sql/index.js';
import type { Operation } from './operation.js';

/** A step that a person wrote: a statement of one dialect, and where it stands among the statements of a plan. */
export interface HandStep {
  readonly on: DialectName;
  readonly where: 'before' | 'after' | 'instead of';
  /** The table of the statement that it stands at, as the plan says it; null for what stands at no table. */
  readonly table: string | null;
  /** What that statement is for, as the plan says it; null for all statements at the table, or for the whole plan. */
  readonly what: string | null;
  readonly sql: string;
  /** What takes it back; null where nothing does. */
  readonly back: string | null;
}

/** A step by hand, and what becomes of it in a plan. */
export interface PlacedHandStep {
  readonly step: HandStep;
  /** *placed*: it is carried out; *no place*: what it stands at is not in the plan; *done*: it was carried out on the database before. */
  readonly becomes: 'placed' | 'no place' | 'done';
}

/** The statements of a plan with those by hand among them. */
interface WithHandSteps {
  readonly operations: readonly Operation[];
  readonly placed: readonly PlacedHandStep[];
  /** What keeps a step by hand from its place, in words. */
  readonly faults: readonly string[];
}

/**
 * Puts the steps by hand of an engine among the statements of a plan. One whose place is not in the plan is passed over, since answers
 * serve several databases, some of which are past it; and a plan that has nothing to do has nothing to do by hand either.
 *
 * @param done those that were carried out on the database before, and not taken back since: none is carried out twice
 * @param changing the tables that become otherwise: one that is only looked at, or kept from others meanwhile, is no place by itself
 */
export function withHandSteps(
  generated: readonly Operation[],
  steps: readonly HandStep[],
  on: DialectName,
  { done, changing }: { readonly done: readonly HandStep[]; readonly changing: ReadonlySet<string> },
): WithHandSteps {
  const carriedOut = new Set(done.map(writtenHandStep));
  const own = steps.filter((step) => step.on === on);
  if (own.length === 0) return { operations: generated, placed: [], faults: [] };
  const before = new Map<number, Operation[]>();
  const after = new Map<number, Operation[]>();
  const instead = new Map<number, Operation>();
  const placed: PlacedHandStep[] = [];
  const faults: string[] = [];
  for (const step of own) {
    if (carriedOut.has(writtenHandStep(step))) {
      placed.push({ step, becomes: 'done' });
      continue;
    }
    const found = placesOf(generated, step, changing);
    const [first] = found;
    const last = found.at(-1);
    placed.push({ step, becomes: first === undefined ? 'no place' : 'placed' });
    if (first === undefined || last === undefined) continue;
    const operation = operationOf(step, generated[first]);
    if (step.where === 'before') before.set(first, [...(before.get(first) ?? []), operation]);
    else if (step.where === 'after') after.set(last, [...(after.get(last) ?? []), operation]);
    else if (found.length > 1)
      faults.push(
        `“${placeWords(step)}” is said of ${found.length} statements of the plan, and a step by hand takes the place of one.`,
      );
    else if (instead.has(first)) faults.push(`Two steps by hand want the place of “${placeWords(step)}”. Leave one of them out.`);
    else instead.set(first, operation);
  }
  const operations = generated.flatMap((operation, at) => [
    ...(before.get(at) ?? []),
    instead.get(at) ?? operation,
    ...(after.get(at) ?? []),
  ]);
  return { operations, placed, faults };
}

/** What stands by hand of a plan is taken back before its tables are, and what stood before its first statements after them. */
export function withHandStepsBack(generated: readonly Operation[], steps: readonly HandStep[]): readonly Operation[] {
  const backs = (isBefore: boolean) =>
    steps
      .filter(({ where }) => (where === 'before') === isBefore)
      .flatMap((step) => (step.back === null ? [] : [{ ...byHand(step, step.back), what: 'taking back a step by hand' }]))
      .toReversed();
  const isSequence = generated[0]?.back !== undefined;
  const first = backs(false).map((operation): Operation => (isSequence ? { ...operation, back: [] } : operation));
  return [...first, ...generated, ...backs(true)];
}

/** Where a step by hand stands, as its line says it: `players: its rows`, or `plan`. */
export function placeWords({ table, what }: Pick<HandStep, 'table' | 'what'>): string {
  return `${table ?? 'plan'}${what === null ? '' : `: ${what}`}`;
}

/** What becomes of a step by hand, in words. */
export function handStepWords({ step, becomes }: PlacedHandStep): string {
  const place = `By hand ${step.where} “${placeWords(step)}”`;
  switch (becomes) {
    case 'no place':
      return `${place}: that is not in this plan, so it is passed over.`;
    case 'done':
      return `${place}: it was carried out on this database before, and is not again.`;
    case 'placed':
      return `${place}: ${firstLine(step.sql)}${step.back === null ? ' It has no way back.' : ''}`;
  }
}

/** What of a plan that is taken back stays, in words: what was done by hand and has no way back. */
export function stayingWords(step: HandStep): string {
  return `What was done by hand ${step.where} “${placeWords(step)}” has no way back, and stays: ${firstLine(step.sql)}`;
}

function firstLine(sql: string): string {
  const [line = '', ...more] = sql.split('\n');
  return more.length > 0 || line.length > 100 ? `${line.slice(0, 100)}…` : line;
}

/** A step by hand as answers say it. */
export function writtenHandStep(step: HandStep): string {
  const indented = (sql: string) => sql.split('\n').map((line) => `  ${line}`.trimEnd());
  return [
    `by hand ${step.where} ${placeWords(step)}, on ${step.on}`,
    ...indented(step.sql),
    ...(step.back === null ? ['no way back'] : ['back', ...indented(step.back)]),
  ].join('\n');
}

/** Why a text cannot be a step by hand; null where it can. */
export function wrongByHand(sql: string): string | null {
  const statements = hasBody(sql) ? [{ sql }] : Array.from(statementsOf(sql));
  const [only] = statements;
  if (only === undefined) return 'A step by hand is a statement of SQL, indented below its line.';
  if (statements.length > 1) return 'A step by hand is one statement. Write a step for each.';
  const [word = ''] = /^[a-z]+/i.exec(only.sql.trim()) ?? [];
  return BESIDE_PLANS.has(word.toLowerCase())
    ? `“${word}” would reach beyond the plan, which is carried out as a whole or not at all.`
    : null;
}

/** Words of statements that end or leave what a plan is carried out in, or that are settings of who carries it out. */
const BESIDE_PLANS = new Set([
  'abort',
  'attach',
  'begin',
  'commit',
  'detach',
  'end',
  'lock',
  'pragma',
  'prepare',
  'release',
  'rollback',
  'savepoint',
  'set',
  'start',
  'unlock',
  'use',
  'vacuum',
  'xa',
]);

/** The statements that a step by hand stands at, by where they are. */
function placesOf(operations: readonly Operation[], { table, what }: HandStep, changing: ReadonlySet<string>): readonly number[] {
  const isWhole = table === null && what === null;
  if (table !== null && what === null && !changing.has(table)) return [];
  return operations.flatMap((operation, at) =>
    isWhole || (operation.table === table && (what === null || operation.what === what)) ? [at] : [],
  );
}

function operationOf(step: HandStep, first: Operation | undefined): Operation {
  const operation = byHand(step, step.sql);
  // A statement without a way back, where definitions commit by themselves, is one that the plan is finished from. What was done by
  // hand keeps no plan from being taken back: where nothing takes it back, it stays.
  return first?.back === undefined ? operation : { ...operation, back: step.back === null ? [] : [step.back] };
}

function byHand(step: HandStep, sql: string): Operation {
  const kind = /^(?:insert|update|delete|replace|with)\b/i.test(sql.trim()) ? 'rows' : 'define';
  const place = step.where === 'instead of' ? `in place of: ${step.what ?? ''}` : 'a step';
  return { kind, table: step.table, what: `by hand, ${place}`, sql: withoutEnd(sql.trim()), byHand: true };
}

/** A statement without what ends it, and without a comment behind: what a script ends it by must not stand in that. */
function withoutEnd(sql: string): string {
  if (hasBody(sql)) return sql.replace(/;\s*$/, '');
  const tokens = sqlTokens(sql);
  const last = tokens.findLast(({ text }) => text !== ';');
  return sql.slice(0, last?.end ?? 0);
}

/** Whether something stands between dollars: a body, which SQLite's reading does not know. */
function hasBody(sql: string): boolean {
  return /\$\w*\$/.test(sql);
}
