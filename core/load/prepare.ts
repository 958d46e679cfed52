import type { Dialect } from '../dialects/index.js';
import type { BoundParameter } from '../values/index.js';
import type { Woven } from '../walls/index.js';
import { bind, type RunInputs } from './bindings.js';
import { type Compiled, type CompileOptions, compile } from './compile/index.js';

/** A woven plan as statements, with the values of its parameters: all that an engine needs to answer it. It is plain data. */
export interface Prepared {
  readonly compiled: Compiled;
  readonly parameters: Readonly<Record<string, BoundParameter>>;
  /** The database was made here, so its checks keep every value in its type; else each is looked at. */
  readonly madeHere: boolean;
}

export type Preparation =
  | { readonly ok: true; readonly prepared: Prepared }
  /** A parameter that is missing, or whose value does not fit its type. */
  | { readonly ok: false; readonly problems: readonly string[] };

/** Prepares a woven plan to be run on a database. */
export function prepare(woven: Woven, database: CompileOptions, inputs: RunInputs): Preparation {
  const compiled = compile(woven, database);
  const bound = bind(compiled.bindings, inputs, database.dialect.values);
  if (!bound.ok) return bound;
  return { ok: true, prepared: { compiled, parameters: bound.parameters, madeHere: database.madeHere } };
}

/** The root statement of a prepared plan, as a person would write it; `:name` stands for a parameter. */
export function writtenSql({ compiled }: Prepared, dialect: Dialect): string {
  return dialect.printQuery(compiled.select);
}
