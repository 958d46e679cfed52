/** The server: the store, the open databases, and the routes before them. */
import { chmodSync, existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { basename, dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import express, { type ErrorRequestHandler } from 'express';
import { pino } from 'pino';
import { LONGEST_TEXT } from '../contract/index.js';
import { lockFolder } from '../engines/index.js';
import { policy, sameHost, tokenNeeded } from './guard/index.js';
import { BoundFiles, Databases, PlacesInUse, Progress, TreeEvents } from './jobs/index.js';
import { pageFor } from './page/index.js';
import { bringInRoutes } from './routes/bring-in.js';
import { databaseRoutes } from './routes/database.js';
import { fileRoutes } from './routes/files.js';
import { titleIn } from './routes/messages.js';
import { preferenceRoutes } from './routes/preferences.js';
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

export interface Serving {
  readonly port: number;
  close(): Promise<void>;
}

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
  const root = packageRoot();
  // What a server that was ended left half done is made anew when it is asked for.
  for (const file of readdirSync(folder))
    if (/\.scratch-\d+\.db|\.uploading/.test(file)) rmSync(join(folder, file), { force: true });
  const log = pino({ level: options.quiet === true ? 'silent' : 'warn' });
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
  const given = options.folder === undefined || options.folder === null ? null : resolve(options.folder);
  const app = express();
  app.disable('x-powered-by');
  const listening = await new Promise<import('node:http').Server>((done, failed) => {
    const server = app.listen(options.port, options.host, () => done(server));
    server.on('error', (error: NodeJS.ErrnoException) =>
      failed(
        error.code === 'EADDRINUSE'
          ? new Error(`Port ${options.port} is in use. Choose another: --port ${options.port + 1}`)
          : error,
      ),
    );
  });
  const { port } = listening.address() as AddressInfo;
  const guard = { host: options.host, port, token: options.token };

  const close = async () => {
    listening.closeAllConnections();
    await new Promise((done) => listening.close(done));
    await files.close();
    await Promise.all([databases.close(), texts.close()]);
    store.close();
    unlock();
  };

  app.use(sameHost(guard), tokenNeeded(guard), policy());
  app.use('/api', express.json({ limit: LONGEST_TEXT * 4 }));
  app.use(
    '/api',
    bringInRoutes({
      store,
      databases,
      places,
      events,
      progress: new Progress(),
      folder,
      given,
      uploadLimit: options.uploadLimit,
      texts,
      note: (name) => store.noteFile(name),
    }),
    databaseRoutes({ store, databases, places, given }),
  );
  const demo = join(root, 'demo/library.kin');
  app.use('/api', treeRoutes({ store, databases, demo, uploadLimit: options.uploadLimit, files, events, folder: given }));
  app.use('/api', runRoutes({ store, databases, files, events }), rowRoutes({ store, databases }));
  app.use('/api', fileRoutes({ files, folder: given }), preferenceRoutes(store));
  app.use('/api', (_request, response) => {
    response.status(404).json({ message: 'There is no such address.' });
  });
  const web = join(root, 'dist/web');
  app.use(express.static(web, { index: false, maxAge: '1h' }));
  app.get('/{*path}', (request, response) => {
    const page = pageFor(web, request.path, String(response.locals.nonce));
    if (page === null) response.status(503).json({ message: 'The page is not built yet. Run npm start.' });
    else response.type('html').set('cache-control', 'no-store').send(page);
  });
  const failed: ErrorRequestHandler = (error: { status?: number; type?: string; code?: string }, request, response, _next) => {
    const tooLarge = error.type === 'entity.too.large';
    // The request’s own fault: its encoding, its form, its address.
    const refused = error.status !== undefined && error.status >= 400 && error.status < 500 ? error.status : null;
    const full = error.code === 'SQLITE_FULL' || error.code === 'ENOSPC';
    if (!tooLarge && refused === null) log.error({ err: error, url: request.url }, 'a request failed');
    if (response.headersSent) response.end();
    else if (tooLarge)
      response.status(413).json({ message: 'This is more than the server takes. A text may hold 2,000,000 characters at most.' });
    else if (full)
      response.status(507).json({
        message: 'The disk of this machine is full. The text was not saved; it is kept in your browser until there is room.',
      });
    else if (refused !== null) response.status(refused).json({ message: 'The request is not well formed.' });
    else response.status(500).json({ message: 'Something went wrong in this program. What was saved is safe.' });
  };
  app.use(failed);

  files.watchAll();
  let address = `http://${options.host.includes(':') ? `[${options.host}]` : options.host}:${port}/`;
  if (options.open !== undefined && options.open !== null) {
    const opened = await files.open(options.open);
    if ('problem' in opened) {
      await close();
      throw new Error(opened.problem);
    }
    address += `tree/${opened.id}/design`;
  }
  if (options.quiet !== true) process.stdout.write(`Family Tree is at ${address}\n`);
  return { port, close };
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
