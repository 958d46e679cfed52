/** Computations that need rows, by their names. One file each, and one line in the table. */
import type { Dialect } from '../dialects/index.js';
import type { Computation } from '../load/index.js';
import { checkRows } from './check-rows.js';
import { choices } from './choices.js';
import { counts } from './counts.js';
import { impact } from './impact.js';
import { load } from './load.js';
import { order } from './order.js';
import { page } from './page.js';
import { profile } from './profile.js';
import type { Run } from './run.js';
import { sizes } from './sizes.js';
import { storedRows } from './stored-rows.js';

export { LONGEST_ANSWER } from './answer-text.js';
export type { CheckRowsInput, RowsFound } from './check-rows.js';
export type { Choices } from './choices.js';
export type { Counts } from './counts.js';
export type { LoadedText, LoadInput } from './load.js';
export type { KeyOrder } from './order.js';
export type { PageInput } from './page.js';
export type { ProfiledRows, ProfileInput } from './profile.js';
export type { Run } from './run.js';
export type { StoredRowsInput } from './stored-rows.js';

const table = {
  load,
  order,
  page,
  counts,
  sizes,
  choices,
  profile,
  impact,
  'check rows': checkRows,
  'stored rows': storedRows,
};

type Table = typeof table;

export type RunName = keyof Table;

/** What each run is given, and what comes of it. */
type RunTypes = {
  readonly [Name in RunName]: Table[Name] extends Run<infer Input, infer Result> ? { input: Input; result: Result } : never;
};

export type RunInput<Name extends RunName> = RunTypes[Name]['input'];
export type RunResult<Name extends RunName> = RunTypes[Name]['result'];

const runs: { readonly [Name in RunName]: Run<RunInput<Name>, RunResult<Name>> } = table;

/** How a run is carried out. */
export function paceOf(name: RunName): Run<unknown, unknown>['pace'] {
  return table[name].pace;
}

/** The computation of a run. */
export function computationOf<Name extends RunName>(
  dialect: Dialect,
  name: Name,
  input: RunInput<Name>,
): Computation<RunResult<Name>> {
  return runs[name].compute(dialect, input);
}

/** A run as one process of this program sends it to another. */
export interface SentRun {
  readonly name: RunName;
  /** What the run of this name is given. */
  readonly input: unknown;
}

/** The computation of a run that another process of this program sent; its result is the run's. */
export function computationOfSent(dialect: Dialect, { name, input }: SentRun): Computation<unknown> {
  return computationOf(dialect, name, input as RunInput<RunName>);
}
