import type { Design } from '../core/design/index.js';
import type { Cut, Explained, Preparation, Prepared } from '../core/load/index.js';
import type { Cardinality, Query } from '../core/model/index.js';
import { didYouMean, type Finding, type LoadWay, type ParameterSyntax } from '../core/notation/index.js';
import { PlanTooLarge, planQuery } from '../core/plan/index.js';
import type { LoadedText } from '../core/runs/index.js';
import type { Wire } from '../core/values/index.js';
import type { Engine } from '../engines/index.js';
import { preparedFor } from './looked-at.js';

export interface RunRequest {
  /** The name of a saved query, or the text of one. */
  readonly query:
    | { readonly kind: 'saved'; readonly name: string }
    | { readonly kind: 'text'; readonly text: string; readonly parameters: readonly ParameterSyntax[] };
  readonly parameters: Readonly<Record<string, string | null>>;
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
  /** The way by which everything is loaded; left out, each load has its own. */
  readonly way?: LoadWay;
  /** The relations of which a database that was not made here keeps that every row has its other row. */
  readonly kept?: ReadonlySet<string>;
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
  readonly log: LoadedText['log'];
  readonly cuts: readonly Cut[];
}

/** Why there is no answer: findings have places in the query's text, problems have none. */
export type RunOutcome =
  | { readonly ok: true; readonly answer: RunAnswer }
  | { readonly ok: false; readonly findings: readonly Finding[]; readonly problems: readonly string[] };

/** Runs a query, saved or typed, and gives its rows with their loads, and the log of every statement. */
export async function runQuery(design: Design, engine: Engine, request: RunRequest): Promise<RunOutcome> {
  const found = queryFor(design, request.query);
  if (!('query' in found)) return { ok: false, ...found };
  const unknown = unknownParameters(request.parameters, found.parameters);
  if (unknown.length > 0) return { ok: false, findings: [], problems: unknown };
  let ready: Preparation;
  try {
    const { madeHere, kept, sampleKeys, parameters, now, way } = request;
    const database = { design, madeHere, sampleKeys, ...(kept === undefined ? {} : { kept }) };
    ready = preparedFor(database, planQuery(design.model, atMost(request.changed?.(found.query) ?? found.query, request.most)), {
      parameters,
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
  if (!loaded.ok) return { ok: false, findings: [], problems: [loaded.problem.message] };
  const { text, rows, log, cuts } = loaded.value;
  const { entity, cardinality } = found.query;
  if (cardinality === 'one' && rows !== 1) {
    return {
      ok: false,
      findings: [],
      problems: [
        `The query asks for one ${entity}, and there ${rows === 0 ? 'is none' : 'are more'}${askedWith(found, request)}.`,
      ],
    };
  }
  const flat = found.query.show !== null;
  const told = cardinality === 'exists' ? { text: `[{"exists":${rows > 0}}]`, rows: 1 } : { text, rows };
  return { ok: true, answer: { entity, cardinality, flat, loads: loadsAny(ready.prepared), ...told, log, cuts } };
}

/** Does a prepared query load related rows, whatever their way? */
function loadsAny({ compiled: { joined, nested, loads } }: Prepared): boolean {
  return joined.length + nested.length + loads.length > 0;
}

/** A query for so many rows at most. */
function atMost(query: Query, most: number | undefined): Query {
  const { limit, span } = query;
  if (most === undefined || (limit?.kind === 'value' && Number(limit.value) <= most)) return query;
  return { ...query, limit: { kind: 'value', value: most, type: { kind: 'integer' }, span } };
}

interface FoundQuery {
  readonly query: Query;
  /** Its lines, as a person wrote them. */
  readonly text: string;
  readonly parameters: readonly string[];
}

function unknownParameters(given: RunRequest['parameters'], known: readonly string[]): string[] {
  return Object.keys(given)
    .filter((name) => !known.includes(name))
    .map((name) =>
      known.length === 0
        ? `The query takes no parameters, and ${name} is given.`
        : `The query has no parameter ${name}.${didYouMean(name, known) || ` It has ${known.join(', ')}.`}`,
    );
}

/** ` where name = :name, with name = 'Nobody'`: what a query was asked with. */
function askedWith({ text }: FoundQuery, { parameters }: RunRequest): string {
  const conditions = Array.from(
    text.matchAll(/^[ \t]*(?:from \S+ )?(where .+?)[ \t]*(?:--.*)?$/gm),
    ([, condition]) => condition,
  );
  const given = Object.entries(parameters).filter(([name]) => conditions.some((one) => one?.includes(`:${name}`)));
  const values = given.map(([name, value]) => `${name} = ${value === null ? 'null' : `'${value}'`}`);
  return `${conditions
    .slice(0, 1)
    .map((condition) => ` ${condition}`)
    .join('')}${values.length === 0 ? '' : `, with ${values.join(', ')}`}`;
}

/** The query that is wanted, with its lines; or why there is none. */
export function queryFor(
  design: Design,
  wanted: RunRequest['query'],
): FoundQuery | { findings: readonly Finding[]; problems: readonly string[] } {
  if (wanted.kind === 'text') {
    const { query, findings } = design.queryOf(wanted.text, wanted.parameters);
    if (query === null) return { findings, problems: [] };
    return { query, text: wanted.text, parameters: wanted.parameters.map(({ name }) => name.text) };
  }
  const query = design.model.queries.get(wanted.name);
  if (query !== undefined)
    return {
      query,
      text: design.text.slice(query.span.start, query.span.end),
      parameters: query.parameters.map(({ name }) => name),
    };
  const syntax = design.syntax.declarations.find(
    (declaration) => declaration.kind === 'query' && declaration.name.text === wanted.name,
  );
  const inside =
    syntax === undefined
      ? []
      : design.findings.filter((finding) => finding.span.start >= syntax.span.start && finding.span.end <= syntax.span.end);
  const reason =
    inside.length > 0
      ? ` cannot run: ${inside[0]?.message}`
      : ` is not in the text.${didYouMean(wanted.name, design.model.queries.keys())}`;
  return { findings: inside, problems: [`Query ${wanted.name}${reason}`] };
}
