import type { Design } from '../core/design/index.js';
import { type Query, queryOf } from '../core/model/index.js';
import { looseOrderOf, type QueryWarning, unindexedOf, warningsOn } from '../core/warnings/index.js';
import type { Engine } from '../engines/index.js';
import { entityCounts } from './browse-rows.js';
import { queryFor } from './found-query.js';
import { type RunAnswer, type RunRequest, runQuery } from './run-query.js';

/**
 * What a person should know of a query that was run. Two more things are asked of the database, where they tell: how large the
 * tables are that were read whole, and whether a page ends between rows that are the same in its order.
 */
export async function warnOfQuery(
  design: Design,
  engine: Engine,
  request: RunRequest,
  { text: answered, log, rows: count }: RunAnswer,
): Promise<QueryWarning[]> {
  const found = queryFor(design, request.query);
  if (!('query' in found)) return [];
  const { query } = found;
  const { model, schema } = design;
  const scanned = log.some(({ steps }) => steps.some(({ mark }) => mark === 'full scan'));
  const large = scanned ? new Set(unindexedOf(model, schema, query).map(({ entity }) => entity)) : new Set<string>();
  const options = request.signal === undefined ? {} : { signal: request.signal };
  const sizes = large.size === 0 ? {} : await entityCounts({ design, engine }, options, large);
  let rows: Rows | null = null;
  const isSaved = request.query.kind === 'saved';
  const warnings = warningsOn({
    model,
    schema,
    query,
    // A saved query's places are those of the design.
    text: isSaved ? design.text : found.text,
    log,
    count,
    rows: () => {
      rows ??= JSON.parse(answered) as Rows;
      return rows;
    },
    rowsOf: new Map(Object.entries(sizes)),
    tiedAtEdge: await isTiedAtEdge(design, engine, request, query, count),
  });
  // What would edit a saved query is for the page that shows it as a text of its own.
  return isSaved ? warnings.map((one) => (one.fix?.of === 'query' ? { ...one, fix: null } : one)) : warnings;
}

type Rows = readonly Readonly<Record<string, unknown>>[];

/** Are the last row of a page, and the one behind it, the same in its order? Null where no page is cut, or none can tie. */
async function isTiedAtEdge(
  { model, ...design }: Design,
  engine: Engine,
  request: RunRequest,
  query: Query,
  count: number,
): Promise<boolean | null> {
  const orders = looseOrderOf(model, query);
  const limit = query.cardinality === 'first' ? 1 : amountOf(query.limit, request);
  const offset = query.offset === null ? 0 : amountOf(query.offset, request);
  if (orders === null || offset === null || count === 0 || (limit !== null && count < limit)) return null;
  const number = (value: number): Query['limit'] => ({
    kind: 'value',
    value: String(value),
    type: { kind: 'bigint' },
    span: query.span,
  });
  const edge = await runQuery({ model, ...design }, engine, {
    ...request,
    explained: 'not',
    changed: ({ entity, parameters, where, orderBy, lifts, span }) =>
      queryOf(entity, {
        parameters,
        where,
        orderBy,
        lifts,
        span,
        show: orders.map(({ expression }, index) => ({ name: `part_${index + 1}`, expression, span: expression.span })),
        limit: number(2),
        offset: number(offset + count - 1),
      }),
  });
  if (!edge.ok) return null;
  const [last, next] = JSON.parse(edge.answer.text) as readonly unknown[];
  return next === undefined ? null : JSON.stringify(last) === JSON.stringify(next);
}

/** A limit or offset as a number; null where it is none, or not known here. */
function amountOf(amount: Query['limit'], { parameters }: RunRequest): number | null {
  if (amount?.kind === 'value') return Number(amount.value);
  const given = amount?.kind === 'parameter' ? Number(parameters[amount.name]) : Number.NaN;
  return Number.isSafeInteger(given) ? given : null;
}
