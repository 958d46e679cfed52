import type { RequestHandler } from 'express';

/** Lets pages of some origins ask, and read what they are answered (Fetch Standard, 3.2 “CORS protocol”). */
export function crossOrigin(origins: readonly string[]): RequestHandler {
  return (request, response, next) => {
    const { origin } = request.headers;
    if (origin === undefined || !origins.includes(origin)) {
      next();
      return;
    }
    response.set({
      'access-control-allow-origin': origin,
      'access-control-expose-headers': 'ETag, Location, Retry-After',
      vary: 'Origin',
    });
    if (request.method !== 'OPTIONS') {
      next();
      return;
    }
    response
      .set({
        'access-control-allow-methods': 'GET, HEAD, POST, PATCH, DELETE',
        'access-control-allow-headers': 'Accept, Actor, Authorization, Content-Type, If-Match, If-None-Match',
        'access-control-max-age': '600',
      })
      .status(204)
      .end();
  };
}
