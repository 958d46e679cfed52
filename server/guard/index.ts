/** What stands before every route: who may ask, from where, and what a page may do. */
import { randomBytes, timingSafeEqual } from 'node:crypto';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import helmet from 'helmet';
import { fault, faultsDocument, MEDIA_TYPE } from '../../core/live/index.js';

export interface GuardOptions {
  readonly host: string;
  readonly port: number;
  readonly token: string | null;
  /** Other origins whose pages may ask; left out, none. */
  readonly origins?: readonly string[];
}

const COOKIE = 'family_tree_token';

/** Refuses requests that name another host, or that a page of another origin sends (DNS rebinding, forged posts). */
export function sameHost({ host, port, origins = [] }: GuardOptions): RequestHandler {
  const names = new Set(['localhost', '127.0.0.1', '[::1]', host]);
  const allowed = new Set(Array.from(names).flatMap((name) => [`${name}:${port}`, name]));
  const anyHost = host === '0.0.0.0' || host === '::';
  return (request, response, next) => {
    const asked = request.headers.host ?? '';
    if (!anyHost && !allowed.has(asked)) {
      refuse(request, response, 403, `This server answers as ${host}:${port}, not as ${asked.slice(0, 100)}.`);
      return;
    }
    const { origin } = request.headers;
    if (origin !== undefined && !origins.includes(origin) && origin !== `http://${asked}` && origin !== `https://${asked}`) {
      refuse(request, response, 403, `Pages of ${origin.slice(0, 100)} may not ask this server.`);
      return;
    }
    next();
  };
}

/** Refuses a request, in the words of whom it was for: the page, or a client of the live endpoint. */
function refuse(request: Request, response: Response, status: number, message: string): void {
  if (!request.path.startsWith('/live/')) response.status(status).json({ message });
  else
    response
      .status(status)
      .set('content-type', MEDIA_TYPE)
      .end(JSON.stringify(faultsDocument([fault(status, message)])));
}

/** Asks for the token where there is one: as a bearer, as a cookie, or once in the address, which sets the cookie. */
export function tokenNeeded({ token }: GuardOptions): RequestHandler {
  return (request, response, next) => {
    if (token === null) {
      next();
      return;
    }
    const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
    const cookie = new RegExp(`(?:^|; )${COOKIE}=([^;]+)`).exec(request.headers.cookie ?? '')?.[1];
    const shown = typeof request.query.token === 'string' ? request.query.token : undefined;
    if (shown !== undefined && same(shown, token)) {
      response.cookie(COOKIE, token, { httpOnly: true, sameSite: 'strict' });
      // Two slashes would name another host.
      response.redirect(`/${request.path.replace(/^[\\/]+/, '')}`);
      return;
    }
    if ([bearer, decoded(cookie)].some((given) => given !== undefined && same(given, token))) {
      next();
      return;
    }
    refuse(request, response, 401, 'This server needs its token. Open it with ?token=… in the address.');
  };
}

/** What a cookie holds; as it stands where it is not well formed. */
function decoded(cookie: string | undefined): string | undefined {
  try {
    return cookie === undefined ? undefined : decodeURIComponent(cookie);
  } catch {
    return cookie;
  }
}

function same(given: string, token: string): boolean {
  const [a, b] = [Buffer.from(given), Buffer.from(token)];
  return a.length === b.length && timingSafeEqual(a, b);
}

/** A strict content security policy, with a nonce for the styles that the editor makes. */
export function policy(): RequestHandler {
  return (request: Request, response: Response, next: NextFunction) => {
    const nonce = randomBytes(16).toString('base64');
    response.locals.nonce = nonce;
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'", `'nonce-${nonce}'`],
          styleSrcAttr: ["'unsafe-inline'"],
          fontSrc: ["'self'"],
          imgSrc: ["'self'", 'data:'],
          connectSrc: ["'self'"],
          workerSrc: ["'self'"],
          baseUri: ["'none'"],
          formAction: ["'none'"],
          frameAncestors: ["'none'"],
        },
      },
      strictTransportSecurity: false,
    })(request, response, next);
  };
}
