import { timingSafeEqual } from 'node:crypto';
import express, { type NextFunction, type Request, type RequestHandler, type Response, Router } from 'express';
import type { LiveAnswered, LiveRequestTold } from '../../contract/index.js';
import { ATOMIC, fault, isAccepted, isBodyOf, type LiveFault, OPERATIONS } from '../../core/live/index.js';
import type { LiveAsk } from '../workers/index.js';
import { sendDocument, sendFaults } from './answers.js';
import { limited } from './rate.js';

/** Whoever asks as the system has to know this. */
export const ACTOR_HEADER = 'actor';

export interface LiveOptions {
  /** Whether there is an endpoint of a name. */
  has(name: string): boolean;
  answer(name: string, ask: LiveAsk, signal: AbortSignal): Promise<LiveAnswered | { readonly problem: string }>;
  /** Is told of each request that was answered. */
  note(name: string, request: Omit<LiveRequestTold, 'number'>): void;
  /** Is told of a fault of this program. */
  report(error: unknown): void;
  /** What lets a client work as the system. */
  readonly token: string;
  /** As many requests of one address in a second. */
  readonly rate: number;
}

/** The longest body that is read, in bytes. */
const LONGEST_BODY = 1_000_000;
const LONGEST_ADDRESS = 16_000;
const MOST_TOGETHER = 256;
/** How long the work for a client that has gone away is let be, in milliseconds. */
const LET_BE = 2000;

/** The live endpoint of each tree: JSON:API 1.1 over the database that it looks at, with its walls in force. */
export function liveRoutes(options: LiveOptions): Router {
  const router = Router();
  const read = express.text({ type: () => true, limit: LONGEST_BODY });
  router.use('/:tree', limited({ each: options.rate, together: MOST_TOGETHER }), checked, read, answered(options));
  router.use((request: Request, response: Response) =>
    sendFaults(request, response, [fault(404, 'Behind /live stands the id of a tree.')]),
  );
  router.use((error: unknown, request: Request, response: Response, next: NextFunction) => {
    const told = faultOf(error);
    if (told === null) options.report(error);
    // Once an answer is under way it can only be broken off.
    if (response.headersSent) next(error);
    else sendFaults(request, response, [told ?? fault(500, 'This is a fault of this program, and not of the request.')]);
  });
  return router;
}

/** What the reading of a request stumbled over; null for a fault of this program. */
function faultOf(error: unknown): LiveFault | null {
  if (!(error instanceof Error) || !('status' in error) || typeof error.status !== 'number') return null;
  if (error.status === 413) return fault(413, `A body has ${LONGEST_BODY.toLocaleString('en')} bytes at most.`);
  return error.status >= 400 && error.status < 500
    ? fault(error.status === 415 ? 415 : 400, 'The request is not well formed.')
    : null;
}

/** Whether a request is of the kinds that the endpoint speaks (JSON:API 1.1, “Content Negotiation”). */
const checked: RequestHandler = (request, response, next) => {
  const { method, headers, originalUrl } = request;
  if (originalUrl.length > LONGEST_ADDRESS)
    return sendFaults(request, response, [fault(400, `An address has ${LONGEST_ADDRESS} characters at most.`)]);
  if (!isAccepted(headers.accept))
    return sendFaults(request, response, [fault(406, 'Answers are application/vnd.api+json.', { header: 'Accept' })]);
  const hasBody = headers['content-length'] !== undefined && headers['content-length'] !== '0';
  const needed = partsOf(request)?.[0] === OPERATIONS ? [ATOMIC] : [];
  if (
    (hasBody || headers['transfer-encoding'] !== undefined) &&
    method !== 'GET' &&
    method !== 'HEAD' &&
    !isBodyOf(headers['content-type'], needed)
  )
    return sendFaults(request, response, [
      fault(
        415,
        `Bodies are application/vnd.api+json${needed.length === 0 ? '' : `; ext="${ATOMIC}"`}, without other parameters.`,
        { header: 'Content-Type' },
      ),
    ]);
  next();
};

/** The parts of a path behind the tree’s own, decoded; null where they are not well formed. */
function partsOf(request: Request): readonly string[] | null {
  try {
    return request.path
      .split('/')
      .filter((part) => part !== '')
      .map(decodeURIComponent);
  } catch {
    return null;
  }
}

function answered(options: LiveOptions): RequestHandler {
  return async (request, response) => {
    const started = performance.now();
    const name = String(request.params.tree);
    if (!options.has(name)) return sendFaults(request, response, [fault(404, 'There is no such tree.')]);
    const parts = partsOf(request);
    const parameters = parametersIn(request);
    if (parts === null || parameters === null)
      return sendFaults(request, response, [fault(400, 'The address is not well formed.')]);
    const as = actorIn(request, options.token);
    if (typeof as === 'object' && as !== null) return sendFaults(request, response, [as]);
    const told = await asked(options, name, request, response, { parts, parameters, as });
    if (told === null) return;
    const { status, headers, body, texts, log } = told;
    sendDocument(request, response, status, headers, body);
    options.note(name, {
      at: new Date().toISOString(),
      method: request.method,
      path: request.originalUrl,
      as: as ?? 'nobody',
      status,
      milliseconds: performance.now() - started,
      texts,
      log,
    });
  };
}

interface Read {
  readonly parts: readonly string[];
  readonly parameters: readonly (readonly [string, string])[];
  readonly as: string | null;
}

async function asked(options: LiveOptions, name: string, request: Request, response: Response, read: Read) {
  const asking = new AbortController();
  let leaving: NodeJS.Timeout | null = null;
  response.on('close', () => {
    // To stop what runs may end the database's process, on which others wait: what is done in a moment is let be.
    if (!response.writableEnded) leaving = setTimeout(() => asking.abort(), LET_BE);
  });
  const body: unknown = request.body;
  const ask = {
    ...read,
    method: request.method,
    base: `${request.baseUrl}`,
    body: typeof body === 'string' ? body : '',
    ifMatch: request.headers['if-match'] ?? null,
    ifNoneMatch: request.headers['if-none-match'] ?? null,
  };
  const told = await options.answer(name, ask, asking.signal).finally(() => {
    if (leaving !== null) clearTimeout(leaving);
  });
  if (response.destroyed) return null;
  if (!('problem' in told)) return told;
  sendFaults(request, response, [fault(503, told.problem)]);
  return null;
}

/** The parameters of an address in their order; null where they are not well formed. */
function parametersIn(request: Request): readonly (readonly [string, string])[] | null {
  const at = request.originalUrl.indexOf('?');
  const query = at < 0 ? '' : request.originalUrl.slice(at + 1);
  try {
    return query
      .split('&')
      .filter((part) => part !== '')
      .map((part) => {
        const [name = '', ...value] = part.replaceAll('+', ' ').split('=');
        return [decodeURIComponent(name), decodeURIComponent(value.join('='))] as const;
      });
  } catch {
    return null;
  }
}

/** Whoever asks, as the header says it; the system is nobody without the token. */
function actorIn(request: Request, token: string): string | null | LiveFault {
  const written = request.headers[ACTOR_HEADER];
  if (typeof written !== 'string' || written.trim() === '') return null;
  const as = decoded(written.trim());
  if (as !== 'system') return as;
  const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
  return same(bearer, token)
    ? as
    : fault(401, 'The system needs the token of this server: Authorization: Bearer ….', { header: 'Authorization' });
}

/** A header has letters of ASCII alone: others are written as in an address. */
function decoded(written: string): string {
  try {
    return decodeURIComponent(written);
  } catch {
    return written;
  }
}

function same(given: string, token: string): boolean {
  const [one, other] = [Buffer.from(given), Buffer.from(token)];
  return one.length === other.length && timingSafeEqual(one, other);
}
