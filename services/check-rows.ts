import { type RowQuestion, rowQuestions } from '../core/checks/index.js';
import type { Design } from '../core/design/index.js';
import { type Prepared, writtenSql } from '../core/load/index.js';
import type { Span, Weight } from '../core/notation/index.js';
import type { QueryPlan } from '../core/plan/index.js';
import type { CheckRowsInput, RowsFound } from '../core/runs/index.js';
import type { Wire } from '../core/values/index.js';
import type { Engine, Problem } from '../engines/index.js';
import { nowOf } from './clock.js';
import { preparedFor } from './looked-at.js';

/** A row that does not hold to the design: by its key, or where it is no row of an entity, by what stands in it. */
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

/** Where there is no database the other questions would only say so again. */
const NO_DATABASE: readonly Problem['code'][] = ['not-a-database', 'damaged', 'missing', 'ended', 'login', 'unreachable'];

/** Asks the rows of a database whether they hold to what the design says and no constraint keeps. */
export async function checkRows(
  design: Design,
  engine: Engine,
  { sampleKeys, madeHere = false, codes, signal }: CheckRowsOptions,
): Promise<RowsChecked> {
  const started = performance.now();
  const { model, dialect, text } = design;
  const wanted = rowQuestions(model, { dialect, text }).filter(({ code }) => codes === undefined || codes.includes(code));
  const { input, asked, unanswered } = asInput(wanted, (plan) => prepared({ design, sampleKeys, madeHere }, plan));
  const call = { patient: true, ...(signal === undefined ? {} : { signal }) };
  const found = await engine.run('check rows', input, call);
  const answers: readonly RowsFound[] = found.ok ? found.value : [];
  const findings: RowFinding[] = [];
  for (const [index, question] of asked.entries()) {
    const answer = answers[index];
    if (answer?.kind === 'refused') unanswered.push({ message: answer.refused.message, span: question.span });
    if (answer?.kind !== 'rows') continue;
    const { code, weight, span, entity, condition } = question;
    const count = input.questions[index]?.count;
    findings.push({
      code,
      weight,
      span,
      rows: answer.rows,
      entity,
      condition,
      message: question.told(answer.rows),
      examples: examplesOf(question, answer.examples),
      sql: count === undefined ? '' : writtenSql(count, dialect),
    });
  }
  findings.sort((a, b) => ORDER[a.weight] - ORDER[b.weight] || b.rows - a.rows);
  const answered = answers.filter(({ kind }) => kind !== 'not asked').length;
  return { findings, asked: answered, unanswered, milliseconds: performance.now() - started };
}

/** A plan ready to be run; words where a value for it is missing. */
function prepared(
  {
    design,
    sampleKeys,
    madeHere,
  }: { readonly design: Design; readonly sampleKeys: CheckRowsOptions['sampleKeys']; readonly madeHere: boolean },
  plan: QueryPlan,
): Prepared | string {
  // Nothing is taken as kept, whatever the database was made by; but now is what it was made at.
  const ready = preparedFor({ design, sampleKeys, madeHere: false }, plan, { now: nowOf(design.model, madeHere) });
  return ready.ok ? ready.prepared : ready.problems.join(' ');
}

/** The questions as a run takes them; those whose plans want a value that is missing are not asked. */
function asInput(
  wanted: readonly RowQuestion[],
  ready: (plan: QueryPlan) => Prepared | string,
): { input: CheckRowsInput; asked: RowQuestion[]; unanswered: RowsChecked['unanswered'][number][] } {
  const screens: Prepared[] = [];
  const places = new Map<QueryPlan, number | null>();
  const placeOf = (screen: QueryPlan): number | null => {
    const known = places.get(screen);
    if (known !== undefined) return known;
    const made = ready(screen);
    const place = typeof made === 'string' ? null : screens.push(made) - 1;
    places.set(screen, place);
    return place;
  };
  const asked: RowQuestion[] = [];
  const questions: CheckRowsInput['questions'][number][] = [];
  const unanswered: RowsChecked['unanswered'][number][] = [];
  for (const question of wanted) {
    const count = ready(question.count);
    const examples = ready(question.examples);
    if (typeof count === 'string' || typeof examples === 'string') {
      unanswered.push({ message: String(count), span: question.span });
      continue;
    }
    asked.push(question);
    questions.push({ screen: question.screen === null ? null : placeOf(question.screen), count, examples });
  }
  return { input: { screens, questions, endsAt: NO_DATABASE }, asked, unanswered };
}

/** Cells stand by column: first what tells why, and of an entity's rows the key last. */
function examplesOf({ entity, telling }: RowQuestion, cells: readonly (readonly Wire[])[]): RowExample[] {
  return (cells[0] ?? []).map((_, row) => ({
    key: entity === null ? null : (cells.at(-1)?.[row] ?? null),
    values: telling.map(({ column }, index) => ({ column, value: cells[index]?.[row] ?? null })),
  }));
}
