import type { ErrorRequestHandler } from 'express';
import type { Logger } from 'pino';
import { isForWantOfRoom } from '../store/index.js';

/** Says in words why a request failed. What is this program’s own fault is logged; what the request’s own is, is not. */
export function tellFailure(log: Logger): ErrorRequestHandler {
  return (error: { status?: number; type?: string; code?: string }, request, response, _next) => {
    const tooLarge = error.type === 'entity.too.large';
    // The request’s own fault: its encoding, its form, its address.
    const refused = error.status !== undefined && error.status >= 400 && error.status < 500 ? error.status : null;
    if (!tooLarge && refused === null) log.error({ err: error, url: request.url }, 'a request failed');
    if (response.headersSent) response.end();
    else if (tooLarge)
      response.status(413).json({ message: 'This is more than the server takes. A text may hold 2,000,000 characters at most.' });
    else if (isForWantOfRoom(error))
      response.status(507).json({
        message: 'The disk of this machine is full. The text was not saved; it is kept in your browser until there is room.',
      });
    else if (refused !== null) response.status(refused).json({ message: 'The request is not well formed.' });
    else response.status(500).json({ message: 'Something went wrong in this program. What was saved is safe.' });
  };
}
