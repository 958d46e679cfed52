import type { RequestHandler } from 'express';
import { fault } from '../../core/live/index.js';
import { sendFaults } from './answers.js';

const WINDOW = 1000;

/** Lets so many requests of one address in each second in, and as many at a time; those beyond are told to come again. */
export function limited({ each, together }: { readonly each: number; readonly together: number }): RequestHandler {
  const counts = new Map<string, { since: number; requests: number }>();
  let underWay = 0;
  return (request, response, next) => {
    const now = performance.now();
    const from = request.socket.remoteAddress ?? '';
    const known = counts.get(from);
    const count = known === undefined || now - known.since > WINDOW ? { since: now, requests: 0 } : known;
    count.requests += 1;
    if (counts.size > 10_000) counts.clear();
    counts.set(from, count);
    if (count.requests > each || underWay >= together) {
      response.set('retry-after', '1');
      sendFaults(request, response, [fault(429, `No more than ${each} requests in a second, and ${together} at a time.`)]);
      return;
    }
    underWay += 1;
    response.on('close', () => {
      underWay -= 1;
    });
    next();
  };
}
