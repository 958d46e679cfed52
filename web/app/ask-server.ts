import { type BaseQueryFn, type FetchArgs, type FetchBaseQueryError, fetchBaseQuery } from '@reduxjs/toolkit/query/react';
import type { ActorState } from './actor.js';
import { fetchOrTake } from './ahead.js';
import { untilReachable } from './reachable.js';

/** What is asked of the server; `rowsOf` names the tree whose rows the answer tells of. */
export interface ServerCall extends FetchArgs {
  readonly rowsOf?: string;
  /** It writes rows, as whoever is at work. */
  readonly writes?: true;
  /** It is asked by the system, whoever is at work. */
  readonly bySystem?: boolean;
}

const ask = fetchBaseQuery({
  baseUrl: `${location.origin}/api/`,
  fetchFn: (request, init) => fetchOrTake(new Request(request, init)),
});

/** What ends the calls that read a tree's rows, once those are other rows. */
const readings = new Map<string, AbortController>();

/** The rows of a tree are others from now on: whatever is reading them begins again. */
export function readRowsAnew(tree: string): void {
  readings.get(tree)?.abort();
  readings.delete(tree);
}

function readingOf(tree: string): AbortSignal {
  const reading = readings.get(tree) ?? new AbortController();
  readings.set(tree, reading);
  return reading.signal;
}

/**
 * One call to the server. Where it has no answer the server is waited for, and all that is in view is asked for again. A call
 * that reads rows which are made anew meanwhile is made once more, so that no answer about rows of before is ever kept.
 */
export const askServer: BaseQueryFn<string | ServerCall, unknown, FetchBaseQueryError> = async (call, context, options) => {
  const { rowsOf, writes, bySystem = false, ...request }: ServerCall = typeof call === 'string' ? { url: call } : call;
  for (;;) {
    const reading = rowsOf === undefined ? null : readingOf(rowsOf);
    const signal = reading === null ? context.signal : AbortSignal.any([context.signal, reading]);
    const isOfActor = (rowsOf !== undefined || writes === true) && !bySystem;
    const as = isOfActor ? (context.getState() as { readonly actor: ActorState }).actor.as : '';
    const asked = as === '' ? request : { ...request, params: { ...request.params, as } };
    const answer = await ask(asked, { ...context, signal }, options);
    if (reading?.aborted === true && !context.signal.aborted) continue;
    if (answer.error?.status === 'FETCH_ERROR' && !context.signal.aborted) void untilReachable();
    return answer;
  }
};
