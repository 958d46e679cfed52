import { type Asked, type RowQuestion, rowQuestions } from '../core/checks/index.js';
import type { Design } from '../core/design/index.js';
import { bind } from '../core/load/index.js';
import type { Span, Weight } from '../core/notation/index.js';
import type { Wire } from '../core/values/index.js';
import type { Engine, Problem } from '../engines/index.js';
import { nowOf } from './clock.js';

/** A row that does what none may: by its key, or where it is no row of an entity, by what stands in it. */
export interface RowExample {
  readonly key: Wire;
  readonly values: readonly { readonly column: string; readonly value: Wire }[];
}

/** Rows that do not hold to the design. */
export interface RowFinding {
  readonly code: string;
  readonly weight: Weight;
  readonly message: string;
  readonly span: Span;
  readonly rows: number;
  /** The entity whose rows they are; null for pairs of a pivot, and for values. */
  readonly entity: string | null;
  /** The condition under which Rows shows them; null where the notation cannot say it. */
  readonly condition: string | null;
  readonly examples: readonly RowExample[];
  /** How they were counted. */
  readonly sql: string;
}

export interface RowsChecked {
  /** The worst first, and those of more rows before those of fewer. */
  readonly findings: readonly RowFinding[];
  /** How many questions were asked. */
  readonly asked: number;
  /** Questions that the database did not answer, and what it said. */
  readonly unanswered: readonly { readonly message: string; readonly span: Span }[];
  readonly milliseconds: number;
}

export interface CheckRowsOptions {
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  /** The database was made here, so that now is the tree's own. */
  readonly madeHere?: boolean;
  /** These codes alone; all where none are named. */
  readonly codes?: readonly string[];
  /** Asks nothing more once it is aborted. */
  readonly signal?: AbortSignal;
}

const ORDER: Readonly<Record<Weight, number>> = { error: 0, warning: 1, note: 2 };

const NO_DATABASE: ReadonlySet<Problem['code']> = new Set([
  'not-a-database',
  'damaged',
  'missing',
  'ended',
  'login',
  'unreachable',
]);

/** Asks the rows of a database whether they hold to what the design says and no constraint keeps. */
export async function checkRows(
  { model, dialect, text }: Design,
  engine: Engine,
  { sampleKeys, madeHere = false, codes, signal }: CheckRowsOptions,
): Promise<RowsChecked> {
  const started = performance.now();
  const findings: RowFinding[] = [];
  const unanswered: RowsChecked['unanswered'][number][] = [];
  let asked = 0;
  const inputs = { parameters: {}, now: nowOf(model, madeHere), sampleKeys };
  const ask = async ({ select, outputs, bindings }: Asked, rowLimit: number) => {
    const bound = bind(bindings, inputs, dialect.values);
    if (!bound.ok) return { ok: false as const, code: null, message: bound.problems.join(' ') };
    const options = { typesHold: false, rowLimit };
    const call = { patient: true, ...(signal === undefined ? {} : { signal }) };
    const read = await engine.fetch({ query: select, outputs, parameters: bound.parameters, options }, call);
    return read.ok ? { ok: true as const, cells: read.value.cells } : { ok: false as const, ...read.problem };
  };
  const screens = new Map<Asked, ReturnType<typeof ask>>();
  for (const question of rowQuestions(model, { dialect, text })) {
    if (signal?.aborted === true) break;
    if (codes !== undefined && !codes.includes(question.code)) continue;
    asked += 1;
    if (question.screen !== null) {
      const { screen } = question;
      const known = screens.get(screen) ?? ask(screen, 1);
      screens.set(screen, known);
      const screened = await known;
      if (screened.ok && Number(screened.cells[0]?.[0] ?? 0) === 0) continue;
    }
    const counted = await ask(question.count, 1);
    if (!counted.ok) {
      unanswered.push({ message: counted.message, span: question.span });
      // Where there is no database the other questions would only say so again.
      if (counted.code !== null && NO_DATABASE.has(counted.code)) break;
      continue;
    }
    const rows = Number(counted.cells[0]?.[0] ?? 0);
    if (rows === 0) continue;
    const few = await ask(question.examples, 100);
    const { code, weight, span, entity, condition } = question;
    findings.push({
      code,
      weight,
      span,
      rows,
      entity,
      condition,
      message: question.told(rows),
      examples: few.ok ? examplesOf(question, few.cells) : [],
      sql: dialect.printQuery(question.count.select),
    });
  }
  findings.sort((a, b) => ORDER[a.weight] - ORDER[b.weight] || b.rows - a.rows);
  return { findings, asked, unanswered, milliseconds: performance.now() - started };
}

/** Cells stand by column: first what tells why, and of an entity's rows the key last. */
function examplesOf({ entity, examples }: RowQuestion, cells: readonly (readonly Wire[])[]): RowExample[] {
  const told = examples.outputs.flatMap(({ as, name }, index) =>
    as.startsWith('told_') && name !== null ? [{ column: name, index }] : [],
  );
  return (cells[0] ?? []).map((_, row) => ({
    key: entity === null ? null : (cells.at(-1)?.[row] ?? null),
    values: told.map(({ column, index }) => ({ column, value: cells[index]?.[row] ?? null })),
  }));
}
