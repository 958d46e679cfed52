import { randomBytes } from 'node:crypto';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import { fault } from '../../core/live/index.js';
import { sameHost, tokenNeeded } from '../guard/index.js';
import { LiveWork, type OpenDatabase } from '../workers/index.js';
import { sendFaults } from './answers.js';
import { crossOrigin } from './cross-origin.js';
import { liveRoutes } from './endpoint.js';

/** What an endpoint without the workbench is started with. */
export interface ServeLiveOptions {
  /** What stands in its address behind `/live/`. */
  readonly name: string;
  readonly open: OpenDatabase;
  readonly host: string;
  /** 0 for any that is free. */
  readonly port: number;
  /** What every request has to show, and what lets one work as the system; null for one made up, which the system alone needs. */
  readonly token: string | null;
  /** The origins whose pages may ask. */
  readonly origins: readonly string[];
  /** As many requests of one address in a second. */
  readonly rate: number;
}

/** An endpoint that is served. */
export interface ServingLive {
  readonly address: string;
  readonly token: string;
  close(): Promise<void>;
}

/** Serves the live endpoint of one text over one database, and nothing else. @throws where the port is taken */
export async function serveLive(options: ServeLiveOptions): Promise<ServingLive> {
  const { name, open, host, origins, rate } = options;
  const app = express();
  app.disable('x-powered-by');
  const work = new LiveWork(() => undefined);
  const token = options.token ?? randomBytes(18).toString('base64url');
  const listening = await listen(app, options);
  const { port } = listening.address() as AddressInfo;
  app.use(
    crossOrigin(origins),
    sameHost({ host, port, token: options.token, origins }),
    tokenNeeded({ host, port, token: options.token }),
  );
  app.use(
    '/live',
    liveRoutes({
      has: (asked) => asked === name,
      answer: (_name, ask, signal) => work.answer(open, ask, signal),
      note: () => undefined,
      report: (error) => process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`),
      token,
      rate,
    }),
  );
  app.use((request, response) =>
    sendFaults(request, response, [fault(404, `The endpoint is at /live/${encodeURIComponent(name)}.`)]),
  );
  const close = async () => {
    listening.closeAllConnections();
    await new Promise((done) => listening.close(done));
    await work.close();
  };
  const authority = host.includes(':') ? `[${host}]` : host;
  return { address: `http://${authority}:${port}/live/${encodeURIComponent(name)}`, token, close };
}

function listen(app: express.Express, { port, host }: ServeLiveOptions): Promise<Server> {
  return new Promise((done, failed) => {
    const server = app.listen(port, host, () => done(server));
    server.on('error', (error: NodeJS.ErrnoException) =>
      failed(error.code === 'EADDRINUSE' ? new Error(`Port ${port} is in use. Choose another: --port ${port + 1}`) : error),
    );
  });
}
