/** The server: the store, the open databases, and the routes before them. */
import { randomBytes } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { basename, dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import express, { type Express, Router } from 'express';
import { type Logger, pino } from 'pino';
import { LONGEST_TEXT } from '../contract/index.js';
import { lockFolder } from '../engines/index.js';
import { policy, sameHost, tokenNeeded } from './guard/index.js';
import { BoundFiles, Changes, Databases, PlacesInUse, Progress, RowFiles, TreeEvents } from './jobs/index.js';
import { type LiveOptions, LiveRequests, liveRoutes } from './live/index.js';
import { Openings, pageFor, treeOfAddress } from './page/index.js';
import { auditRoutes } from './routes/audits.js';
import { bringInRoutes } from './routes/bring-in.js';
import { changesRoutes } from './routes/changes.js';
import { databaseRoutes } from './routes/database.js';
import { tellFailure } from './routes/failures.js';
import { fileRoutes } from './routes/files.js';
import { liveStateRoutes } from './routes/live.js';
import { messageOf, titleIn } from './routes/messages.js';
import { preferenceRoutes } from './routes/preferences.js';
import { rowFileRoutes } from './routes/row-files.js';
import { rowRoutes } from './routes/rows.js';
import { runRoutes } from './routes/run.js';
import { treeRoutes } from './routes/trees.js';
import { openStore, type Store } from './store/index.js';
import { Texts } from './workers/index.js';

export interface ServeOptions {
  readonly data: string;
  readonly host: string;
  /** 0 for any that is free. */
  readonly port: number;
  readonly token: string | null;
  /** In bytes. */
  readonly uploadLimit: number;
  /** The folder whose `.kin` files may be opened from the shelf; null for none. */
  readonly folder?: string | null;
  /** A `.kin` file to open at once; its tree's address is printed. */
  readonly open?: string | null;
  readonly quiet?: boolean;
}

export { type ServingLive, serveLive } from './live/index.js';

export interface Serving {
  readonly port: number;
  close(): Promise<void>;
}

/** As many requests of one address in a second as the live endpoint lets in. */
const LIVE_RATE = 2000;
const LOOPBACK = ['127.0.0.1', 'localhost', '::1'];

/**
 * Starts the workbench and prints its address.
 * @throws where it is to listen beyond this machine without a token
 */
export async function serve(options: ServeOptions): Promise<Serving> {
  if (!LOOPBACK.includes(options.host) && options.token === null) {
    throw new Error(`Listening on ${options.host} lets others in. Give a token: --token, or FAMILY_TREE_TOKEN.`);
  }
  const folder = resolve(options.data);
  // What is kept is its owner’s alone to read.
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  chmodSync(folder, 0o700);
  const unlock = lockFolder(join(folder, 'family-tree.lock'));
  if (typeof unlock === 'number')
    throw new Error(
      `Another Family Tree (process ${unlock}) is running over ${folder}. Open its page, or stop it; or name another folder: --data.`,
    );
  try {
    return await serveOver(folder, unlock, options);
  } catch (error) {
    unlock();
    throw error;
  }
}

/** Starts the workbench over a data folder that is this process’s own. */
async function serveOver(folder: string, unlock: () => void, options: ServeOptions): Promise<Serving> {
  const log = pino({ level: options.quiet === true ? 'silent' : 'warn' });
  const parts = partsOver(folder, log);
  const app = express();
  app.disable('x-powered-by');
  const listening = await listen(app, options);
  const { port } = listening.address() as AddressInfo;
  const guard = { host: options.host, port, token: options.token };
  app.use(sameHost(guard), tokenNeeded(guard), policy());
  // What lets a client of the endpoint work as the system: the server’s own token, or one for as long as it runs.
  const live = { token: options.token ?? randomBytes(18).toString('base64url'), requests: new LiveRequests() };
  app.use(
    '/live',
    liveRoutes({
      ...liveOver(parts),
      token: live.token,
      note: (tree, request) => live.requests.note(tree, request),
      report: (error) => log.error({ err: error }, 'a request of the live endpoint failed'),
      rate: LIVE_RATE,
    }),
  );
  app.use('/api', apiRoutes(parts, options, live));
  const openings = new Openings(parts.texts);
  app.use(pageRoutes(parts, openings));
  app.use(tellFailure(log));

  const close = async () => {
    listening.closeAllConnections();
    await new Promise((done) => listening.close(done));
    await parts.files.close();
    await Promise.all([parts.databases.close(), parts.texts.close()]);
    parts.store.close();
    unlock();
  };

  parts.files.watchAll();
  let address = `http://${options.host.includes(':') ? `[${options.host}]` : options.host}:${port}/`;
  if (options.open !== undefined && options.open !== null) {
    const opened = await parts.files.open(options.open);
    if ('problem' in opened) {
      await close();
      throw new Error(opened.problem);
    }
    address += `tree/${opened.id}/design`;
  }
  if (options.quiet !== true) {
    process.stdout.write(`Family Tree is at ${address}\n`);
    openings.begin();
  }
  return { port, close };
}

/** What the routes stand on, each of it one for the whole server. */
interface Parts {
  readonly folder: string;
  readonly store: Store;
  readonly texts: Texts;
  readonly places: PlacesInUse;
  readonly databases: Databases;
  readonly events: TreeEvents;
  readonly files: BoundFiles;
}

function partsOver(folder: string, log: Logger): Parts {
  // What a server that was ended left half done is made anew when it is asked for.
  for (const file of readdirSync(folder))
    if (/\.scratch-\d+\.db|\.uploading|\.lines\.refused|\.rows-out/.test(file)) rmSync(join(folder, file), { force: true });
  const { store, aside } = openStore(join(folder, 'family-tree.db'));
  if (aside !== null)
    process.stderr.write(
      `The trees of ${folder} could not be read: the store is damaged. It was set aside as ${aside}, and a new one begun. To save what is in it: sqlite3 ${aside} .recover\n`,
    );
  removeForgotten(folder, store);
  const texts = new Texts();
  const places = new PlacesInUse(folder);
  const databases = new Databases(folder, store, places, (error) => log.error({ err: error }, 'a database could not be made'));
  const events = new TreeEvents();
  const files = new BoundFiles(store, texts, {
    titleIn,
    changed: (tree, source) => {
      databases.renew(tree);
      events.send(tree.id, { kind: 'text', revision: tree.revision, source });
    },
    state: (tree, state) => events.send(tree, { kind: 'file', state }),
  });
  return { folder, store, texts, places, databases, events, files };
}

/** The live endpoint over the databases of the trees. */
function liveOver({ store, databases }: Parts): Pick<LiveOptions, 'has' | 'answer'> {
  return {
    has: (id) => store.tree(id) !== null,
    answer: async (id, ask, signal) => {
      const tree = store.tree(id);
      return tree === null ? { problem: 'This tree is gone.' } : databases.live(tree, ask, signal);
    },
  };
}

/** @throws where nobody can listen there, with the way out where the port is taken */
function listen(app: Express, { port, host }: ServeOptions): Promise<Server> {
  return new Promise((done, failed) => {
    const server = app.listen(port, host, () => done(server));
    server.on('error', (error: NodeJS.ErrnoException) =>
      failed(error.code === 'EADDRINUSE' ? new Error(`Port ${port} is in use. Choose another: --port ${port + 1}`) : error),
    );
  });
}

function apiRoutes(
  parts: Parts,
  { uploadLimit, folder: named }: ServeOptions,
  live: { readonly token: string; readonly requests: LiveRequests },
): Router {
  const { folder, store, texts, places, databases, events, files } = parts;
  const given = named === undefined || named === null ? null : resolve(named);
  const progress = new Progress();
  const demo = join(packageRoot(), 'demo/library.kin');
  const note = (name: string) => store.noteFile(name);
  const router = Router();
  router.use(
    express.json({ limit: LONGEST_TEXT * 4 }),
    bringInRoutes({ store, databases, places, events, progress, folder, given, uploadLimit, texts, note }),
    databaseRoutes({ store, databases, places, given }),
    treeRoutes({ store, databases, demo, uploadLimit, files, events, folder: given }),
    runRoutes({ store, databases, files, events }),
    rowRoutes({ store, databases }),
    liveStateRoutes({ store, ...live }),
    auditRoutes({ store, databases }),
    changesRoutes({ store, changes: new Changes(folder, store, databases, places), progress, folder }),
    rowFileRoutes({ store, databases, files: new RowFiles(folder, store, databases), progress, folder, uploadLimit }),
    fileRoutes({ files, folder: given }),
    preferenceRoutes(store),
  );
  router.use((_request, response) => {
    response.status(404).json({ message: 'There is no such address.' });
  });
  return router;
}

/** The page, and what belongs to it; every address that is nothing else’s is the page’s own. */
function pageRoutes({ store }: Parts, openings: Openings): Router {
  const web = join(packageRoot(), 'dist/web');
  const router = Router();
  router.use(express.static(web, { index: false, maxAge: '1h' }));
  router.get('/{*path}', async (request, response) => {
    const id = treeOfAddress(request.path);
    const tree = id === null ? null : store.tree(id);
    const told = new Map([['/api/preferences', JSON.stringify(store.preferences())]]);
    if (tree === null) openings.begin();
    else {
      told.set(`/api/trees/${tree.id}`, JSON.stringify(messageOf(tree)));
      const opening = await openings.of(tree);
      if (opening !== null) told.set('opening', opening);
    }
    const page = pageFor(web, request.path, String(response.locals.nonce), told);
    if (page === null) response.status(503).json({ message: 'The page is not built yet. Run npm start.' });
    else response.type('html').set('cache-control', 'no-store').send(page);
  });
  return router;
}

/**
 * Removes databases that were brought in and never taken in. Only what this store noted itself goes: what it does not know
 * of may be somebody’s, as where a store was lost.
 */
function removeForgotten(folder: string, store: Store): void {
  for (const name of store.unkeptFiles()) {
    // An embedded engine keeps its data in a folder.
    rmSync(join(folder, basename(name)), { force: true, recursive: true });
    store.forgetNote(name);
  }
}

function packageRoot(): string {
  let folder = dirname(fileURLToPath(import.meta.url));
  while (!existsSync(join(folder, 'package.json'))) folder = dirname(folder);
  return folder;
}
