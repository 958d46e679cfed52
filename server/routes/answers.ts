import type { Request, Response } from 'express';
import * as v from 'valibot';
import type { Databases, TreeAsk } from '../jobs/index.js';
import type { StoredTree } from '../store/index.js';

/** On whose behalf a call is made, as its address says: `?as=Player(3)`. */
export function asOf({ query }: Request): { readonly as?: string } {
  return typeof query.as === 'string' && query.as !== '' ? { as: query.as } : {};
}

/** A body, with on whose behalf it is asked, parsed by its schema; null after a 400 that says what does not fit. */
export function bodyOf<T extends v.GenericSchema>(schema: T, request: Request, response: Response): v.InferOutput<T> | null {
  const body: unknown = request.body;
  const isObject = typeof body === 'object' && body !== null && !Array.isArray(body);
  const parsed = v.safeParse(schema, isObject ? { ...asOf(request), ...body } : body);
  if (parsed.success) return parsed.output;
  const [issue] = parsed.issues;
  const place = issue.path?.map((item) => String(item.key)).join('.') ?? '';
  const tooLong = issue.type === 'max_length';
  response.status(tooLong ? 413 : 400).json({
    message: tooLong ? issue.message : `The request does not fit${place === '' ? '' : ` at ${place}`}: ${issue.message}`,
  });
  return null;
}

/** Answers that something is not there. */
export function notFound(response: Response, what: string): void {
  response.status(404).json({ message: `${what} is not there.` });
}

/** Sends what a tree's database answers. Whoever asked may stop waiting; then the work is stopped too, and no other. */
export async function answerOf(
  databases: Databases,
  tree: StoredTree,
  name: TreeAsk,
  argument: unknown,
  response: Response,
  refuse: (problem: string) => object,
): Promise<void> {
  await sent(response, (signal) => databases.ask(tree, name, argument, { signal }), refuse);
}

/** Sends what comes of asking, as long as somebody waits for it. */
export async function sent(
  response: Response,
  ask: (signal: AbortSignal) => ReturnType<Databases['ask']>,
  refuse: (problem: string) => object,
): Promise<void> {
  const asking = new AbortController();
  response.on('close', () => {
    if (!response.writableEnded) asking.abort();
  });
  const answer = await ask(asking.signal);
  if (response.destroyed) return;
  if ('problem' in answer) response.json(refuse(answer.problem));
  else if (answer.json === MISSING) notFound(response, 'What was asked for');
  else response.set('content-type', 'application/json; charset=utf-8').end(answer.json);
}

/** How a database says that the text has no such thing. */
const MISSING = JSON.stringify({ missing: true });
