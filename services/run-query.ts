import type { Design } from '../core/design/index.js';
import { type Cut, type Explained, type Preparation, type Prepared, TOTAL_PATH } from '../core/load/index.js';
import { type ActorName, type Cardinality, lineage, type Query } from '../core/model/index.js';
import type { Finding, LoadWay } from '../core/notation/index.js';
import { PlanTooLarge, planQuery } from '../core/plan/index.js';
import type { LoadedText } from '../core/runs/index.js';
import type { Wire } from '../core/values/index.js';
import type { Actor } from '../core/walls/index.js';
import type { Engine, Outcome, Problem } from '../engines/index.js';
import { askedWith, type GivenParameters, queryFor, unknownParameters, type WantedQuery } from './found-query.js';
import { keyOfAnswer, rowsToFind, withListsFilled } from './given-parameters.js';
import { preparedFor } from './looked-at.js';
import { asksForOne, withOnlyRows } from './only-rows.js';
import { actorAt } from './working-as.js';

export interface RunRequest {
  readonly query: WantedQuery;
  readonly parameters: GivenParameters;
  /** Stops this query, and nothing else. */
  readonly signal?: AbortSignal;
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  /** The database was made here, so its constraints keep types and keys. */
  readonly madeHere: boolean;
  /** What now is, where that is not as `madeHere` has it: as a timestamp in wire form. */
  readonly now?: string;
  readonly rowLimit: number;
  /** Another query to be run in place of the one that was found. */
  readonly changed?: (query: Query) => Query;
  /** How many root rows there are to be at most, whatever the query says; left out, as it says. */
  readonly most?: number;
  /** Whether the log says how each statement is answered; left out, as the engine expects it. */
  readonly explained?: Explained;
  /** Whether it is counted how many rows there are beside a page. */
  readonly total?: boolean;
  /** The way by which everything is loaded; left out, each load has its own. */
  readonly way?: LoadWay;
  /** The relations of which a database that was not made here keeps that every row has its other row. */
  readonly kept?: ReadonlySet<string>;
  /** On whose behalf it is run; left out, on the system's, which sees all rows. */
  readonly as?: ActorName;
  /** The same where all that walls and the query ask of them is known already; left out, it is looked up. */
  readonly actor?: Actor;
}

export interface RunAnswer {
  readonly entity: string;
  readonly cardinality: Cardinality;
  /** The answer is lines of what the query shows, and not rows of the entity. */
  readonly flat: boolean;
  /** Related rows are loaded along. */
  readonly loads: boolean;
  /** The root rows as one JSON array; for `count` and `exists`, one row with the number, or whether there is any. */
  readonly text: string;
  readonly rows: number;
  /** The answer is a page: rows may stand before it or behind it. */
  readonly page: boolean;
  /** How many rows there are beyond the page; null where that was not asked, or the answer is no page. */
  readonly total: number | null;
  readonly log: LoadedText['log'];
  readonly cuts: readonly Cut[];
}

/** Why there is no answer: findings have places in the query's text, problems have none. */
export type RunOutcome =
  | { readonly ok: true; readonly answer: RunAnswer }
  | {
      readonly ok: false;
      readonly findings: readonly Finding[];
      readonly problems: readonly string[];
      /** What the database itself has against it; left out, it was not asked. */
      readonly problem?: Problem;
    };

/** Runs a query, saved or typed, and gives its rows with their loads, and the log of every statement. */
export async function runQuery(design: Design, engine: Engine, request: RunRequest): Promise<RunOutcome> {
  const found = queryFor(design, request.query);
  if (!('query' in found)) return { ok: false, ...found };
  const names = found.parameters.map(({ name }) => name.text);
  const unknown = unknownParameters(request.parameters, names);
  if (unknown.length > 0) return { ok: false, findings: [], problems: unknown };
  const looked = await rowsFound(design, engine, request, found.query);
  if (!looked.ok) return looked;
  const filled = withListsFilled(design, found.query, { lines: found.lines, parameters: found.parameters }, looked.parameters);
  if ('problems' in filled) return { ok: false, findings: [], problems: filled.problems };
  let ready: Preparation;
  try {
    const { madeHere, kept, sampleKeys, now, way } = request;
    const database = { design, engine, madeHere, sampleKeys, ...(kept === undefined ? {} : { kept }) };
    const query = atMost(request.changed?.(filled.query) ?? filled.query, request.most);
    const as: Outcome<Actor> =
      request.actor === undefined
        ? await actorAt(database, request.as ?? { kind: 'system' }, query, request)
        : { ok: true, value: request.actor };
    if (!as.ok) return { ok: false, findings: [], problems: [as.problem.message] };
    ready = preparedFor({ ...database, actor: as.value }, planQuery(design.model, query), {
      parameters: filled.parameters,
      ...(now === undefined ? {} : { now }),
      ...(way === undefined ? {} : { way }),
    });
  } catch (error) {
    if (!(error instanceof PlanTooLarge)) throw error;
    return {
      ok: false,
      findings: [],
      problems: ['The scopes that this query names stand on each other so often that no statement can hold them. Split it.'],
    };
  }
  if (!ready.ok) return { ok: false, findings: [], problems: ready.problems };
  for (const amount of [found.query.limit, found.query.offset])
    if (amount?.kind === 'parameter' && (request.parameters[amount.name] ?? '').trim().startsWith('-'))
      return { ok: false, findings: [], problems: [`${amount.name} is how many rows there are to be: 0 or more.`] };
  const { rowLimit, explained = 'expected' } = request;
  const input = { prepared: ready.prepared, rowLimit, explained };
  const call = { patient: true, ...(request.signal === undefined ? {} : { signal: request.signal }) };
  const loaded = await engine.run('load', input, call);
  if (!loaded.ok) return { ok: false, findings: [], problems: [loaded.problem.message], problem: loaded.problem };
  const { text: whole, rows, log, cuts } = loaded.value;
  const ones = onesIn(filled.query, whole);
  if (!ones.ok) return { ok: false, findings: [], problems: [ones.problem] };
  const { text } = ones;
  const { entity, cardinality } = found.query;
  if (cardinality === 'one' && rows !== 1) {
    return {
      ok: false,
      findings: [],
      problems: [
        `The query asks for one ${entity}, and there ${rows === 0 ? 'is none' : 'are more'}${askedWith(found, request.parameters)}.`,
      ],
    };
  }
  const flat = found.query.show !== null;
  const told = cardinality === 'exists' ? { text: `[{"exists":${rows > 0}}]`, rows: 1 } : { text, rows };
  const page = isPage(found.query);
  const total = request.total === true && page ? await totalOf(design, engine, request) : null;
  const statements = total === null ? log : [...log, ...total.log];
  const loads = loadsAny(ready.prepared);
  return {
    ok: true,
    answer: { entity, cardinality, flat, loads, ...told, page, total: total?.rows ?? null, log: statements, cuts },
  };
}

/** The answer's text with one row in the place of a list, wherever a load asks for it. */
function onesIn({ loads, show }: Query, text: string): { ok: true; text: string } | { ok: false; problem: string } {
  if (show !== null || !asksForOne(loads)) return { ok: true, text };
  const rows = withOnlyRows(JSON.parse(text) as Record<string, unknown>[], loads);
  return rows.ok ? { ok: true, text: JSON.stringify(rows.rows) } : rows;
}

/** Is an answer some of the rows that there are: cut by a limit, or begun behind the first? */
function isPage({ cardinality, limit, offset }: Query): boolean {
  return cardinality === 'many' && (limit !== null || offset !== null);
}

/** How many rows a query would give without its limit, and the statement that counts them; null where they cannot be counted. */
async function totalOf(
  design: Design,
  engine: Engine,
  request: RunRequest,
): Promise<{ readonly rows: number; readonly log: RunAnswer['log'] } | null> {
  const changed = (query: Query): Query => ({
    ...(request.changed?.(query) ?? query),
    cardinality: 'count',
    limit: null,
    offset: null,
    orderBy: [],
    loads: [],
  });
  const counted = await runQuery(design, engine, { ...request, total: false, changed });
  if (!counted.ok) return null;
  const [line] = JSON.parse(counted.answer.text) as readonly Readonly<Record<string, unknown>>[];
  return { rows: Number(line?.count ?? 0), log: counted.answer.log.map((entry) => ({ ...entry, path: TOTAL_PATH })) };
}

/** Does a prepared query load related rows, whatever their way? */
function loadsAny({ compiled: { joined, nested, loads } }: Prepared): boolean {
  return joined.length + nested.length + loads.length > 0;
}

/** A query for so many rows at most; left out, for as many as it says. */
export function atMost(query: Query, most: number | undefined): Query {
  const { limit, span } = query;
  if (most === undefined || (limit?.kind === 'value' && Number(limit.value) <= most)) return query;
  return { ...query, limit: { kind: 'value', value: most, type: { kind: 'integer' }, span } };
}

/** The parameters, with the key of each row that was given by what is true of it alone. */
async function rowsFound(
  design: Design,
  engine: Engine,
  request: RunRequest,
  { parameters: declared }: Query,
): Promise<Extract<RunOutcome, { ok: false }> | { readonly ok: true; readonly parameters: RunRequest['parameters'] }> {
  const parameters = { ...request.parameters };
  const { sampleKeys, madeHere, kept, now, signal, as, actor } = request;
  const database = {
    sampleKeys,
    madeHere,
    ...(as === undefined ? {} : { as }),
    ...(actor === undefined ? {} : { actor }),
    ...(kept === undefined ? {} : { kept }),
    ...(now === undefined ? {} : { now }),
  };
  for (const { parameter, entity, query: text } of rowsToFind(declared, request.parameters)) {
    const query = { kind: 'text' as const, text, parameters: [] };
    const asked = { ...database, query, parameters: {}, rowLimit: 2, explained: 'not' as const };
    const outcome = await runQuery(design, engine, { ...asked, ...(signal === undefined ? {} : { signal }) });
    const refused = (why: string) => ({ ok: false as const, findings: [], problems: [`${parameter}: ${why}`] });
    if (!outcome.ok) return refused([...outcome.findings.map(({ message }) => message), ...outcome.problems].join(' '));
    const rows = JSON.parse(outcome.answer.text) as readonly Readonly<Record<string, unknown>>[];
    const [row] = rows;
    const isOne =
      outcome.answer.entity === entity || lineage(design.model, outcome.answer.entity).some(({ name }) => name === entity);
    if (!isOne) return refused(`a row of ${entity} is meant, and this is one of ${outcome.answer.entity}.`);
    if (row === undefined || rows.length > 1)
      return refused(`${rows.length === 0 ? 'no row is' : 'several rows are'} ${request.parameters[parameter]?.trim()}.`);
    parameters[parameter] = keyOfAnswer(design, outcome.answer.entity, row);
  }
  return { ok: true, parameters };
}
