import type { Request, Response } from 'express';
import { faultsDocument, type LiveFault, MEDIA_TYPE, statusOf } from '../../core/live/index.js';

/** Answers with what is wrong with a request, as the standard has it. */
export function sendFaults(request: Request, response: Response, faults: readonly LiveFault[]): void {
  sendDocument(request, response, statusOf(faults), {}, JSON.stringify(faultsDocument(faults)));
}

/** Answers with a document; to a HEAD, and where there is none, with its head alone. */
export function sendDocument(
  request: Request,
  response: Response,
  status: number,
  headers: Readonly<Record<string, string>>,
  body: string,
): void {
  if (response.destroyed) return;
  // What is answered differs with who asks, and with what they take.
  response.status(status).set({ ...headers, vary: 'Accept, Actor, Authorization', 'cache-control': 'no-cache' });
  if (body === '') {
    response.end();
    return;
  }
  response.set({ 'content-type': MEDIA_TYPE, 'content-length': String(Buffer.byteLength(body)) });
  response.end(request.method === 'HEAD' ? undefined : body);
}
