import type { Request, Response } from 'express';
import * as v from 'valibot';

/** A body, parsed by its schema; null after a 400 that says what does not fit. */
export function bodyOf<T extends v.GenericSchema>(schema: T, request: Request, response: Response): v.InferOutput<T> | null {
  const parsed = v.safeParse(schema, request.body);
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
