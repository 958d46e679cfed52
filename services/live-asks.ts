import { type LiveQuery, PAGE_HEAD, refuse } from '../core/live/index.js';
import type { AnswerRow } from '../core/load/index.js';
import { type Finding, parseParameters } from '../core/notation/index.js';
import type { WantedQuery } from './found-query.js';
import type { Answering } from './live-request.js';
import { type RunAnswer, runQuery } from './run-query.js';

/** As many rows as one level of an answer has at most. */
export const MOST_ROWS = 20_000;

const PAGE_PARAMETERS = parseParameters(PAGE_HEAD) ?? [];

/** The rows that a request found. */
export interface Found {
  readonly rows: readonly AnswerRow[];
  readonly total: number | null;
  readonly answer: RunAnswer;
}

/** Asks a query of the endpoint’s own. @throws Faulty where the request asks for what there is not */
export async function askedOwn(answering: Answering, { text, parameters }: LiveQuery, total = false): Promise<Found> {
  const { design } = answering.live;
  const used = PAGE_PARAMETERS.filter(({ name }) => text.includes(`:${name.text}`));
  const { query, findings } = design.queryOf(text, used);
  if (query === null) throw refuseFindings(text, findings);
  if (query.lifts.length > 0) refuse(400, 'A condition sees over no wall.', { parameter: 'filter' });
  const given = Object.fromEntries(used.map(({ name }) => [name.text, parameters[name.text] ?? null]));
  return asked(answering, { kind: 'text', text, parameters: used }, given, total);
}

/** Asks a query of the database on behalf of whoever asks, and notes it. @throws Faulty where the request asks for what there is not */
export async function asked(
  { live, request, work }: Answering,
  query: WantedQuery,
  parameters: Readonly<Record<string, string | null>>,
  total = false,
): Promise<Found> {
  const { design, engine, sampleKeys, madeHere, kept, now } = live;
  work.texts.push(query.kind === 'text' ? query.text : query.name);
  const outcome = await runQuery(design, engine, {
    query,
    parameters,
    sampleKeys,
    madeHere,
    now,
    rowLimit: MOST_ROWS,
    explained: 'not',
    as: request.as,
    total,
    signal: request.signal,
    ...(kept === undefined ? {} : { kept }),
  });
  if (!outcome.ok) {
    if (outcome.problem !== undefined)
      return refuse(503, 'The database did not answer. Ask again in a moment, or for less at once.');
    const words = [...outcome.findings.map(({ message }) => message), ...outcome.problems].join(' ');
    const named = Object.keys(parameters).find((name) => words.startsWith(`${name}:`));
    return refuse(400, words, named === undefined ? null : { parameter: named });
  }
  const { answer } = outcome;
  for (const { plain, milliseconds, rows, parameters: values } of answer.log)
    work.log.push({
      plain,
      milliseconds,
      rows,
      values: values.map(({ name, shown }) => `${name} = ${shown}`),
    });
  return {
    rows: JSON.parse(answer.text) as AnswerRow[],
    total: answer.total === null ? null : Math.max(0, answer.total),
    answer,
  };
}

/** What is wrong with a query, by the parameter that its line comes from. */
function refuseFindings(text: string, findings: readonly Finding[]): never {
  const [first] = findings.filter(({ weight }) => weight === 'error');
  if (first === undefined) return refuse(400, 'This cannot be asked.');
  const line = text.slice(0, first.span.start).split('\n').at(-1) ?? '';
  const whole = text.slice(first.span.start - line.length).split('\n')[0] ?? '';
  const parameter = /^where /.test(whole) ? 'filter' : /^order by /.test(whole) ? 'sort' : 'include';
  return refuse(400, first.message.replace(/^the query: /, ''), { parameter });
}
