import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rename } from 'node:fs/promises';
import { isAbsolute, join, resolve, sep } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { type Request, type Response, Router } from 'express';
import * as v from 'valibot';
import { Arrival, BringInPath, type BroughtAgain, type BroughtInTree, SaveText, type WorkStep } from '../../contract/index.js';
import type { Existing } from '../../core/import/index.js';
import { bringAgain } from '../../core/revisions/index.js';
import { type BroughtIn, bringIn, bringInScript, removeAt, titleOf } from '../../services/index.js';
import type { Databases, Progress, TreeEvents } from '../jobs/index.js';
import type { Store } from '../store/index.js';
import { bodyOf, notFound } from './answers.js';
import { messageOf, titleIn } from './messages.js';

export interface BringInRoutes {
  readonly store: Store;
  readonly databases: Databases;
  readonly events: TreeEvents;
  readonly progress: Progress;
  /** Where databases are kept. */
  readonly folder: string;
  /** The folder below which files may be brought in where they lie. */
  readonly given: string | null;
  readonly uploadLimit: number;
}

const HEADER = Buffer.from('SQLite format 3\0', 'latin1');

/** Something that cannot be brought in, in words for the person who sent it. */
class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** A database that came in, and the file that is looked at: a name in the data folder, or a path of its own. */
interface Came {
  readonly brought: BroughtIn;
  readonly database: string;
  readonly arrival: Arrival;
}

/** What a tree keeps of how its database came in. */
interface KeptArrival {
  readonly arrival: Arrival;
  readonly existing: { readonly schema: Existing['schema']; readonly statements: readonly (readonly [string, string])[] };
}

/** A database that was brought in again, until its changes are taken in. */
interface Pending extends Came {
  readonly tree: string;
}

const MOST_PENDING = 20;

/** Bringing in a SQLite file or a SQL script, uploaded or where it lies, and bringing the same in again. */
export function bringInRoutes(routes: BringInRoutes): Router {
  const { store, databases, events, progress, folder } = routes;
  const router = Router();
  const pending = new Map<string, Pending>();

  /** Brings in what the request sends or names; answers for what cannot be. */
  const receive = async (request: Request, response: Response): Promise<Came | null> => {
    const work = progress.begin(typeof request.query.job === 'string' ? request.query.job : '');
    try {
      if (request.is('application/json') === false) return await uploaded(request, routes, work.step);
      const wanted = bodyOf(BringInPath, request, response);
      return wanted === null ? null : await whereItLies(wanted.path, routes, work.step);
    } catch (error) {
      if (error instanceof Refused) response.status(error.status).set('connection', 'close').json({ message: error.message });
      else if ((error as NodeJS.ErrnoException).code === 'ENOSPC')
        response.status(507).json({ message: 'The file does not fit on the disk of this machine.' });
      else if (!request.destroyed || !response.headersSent) throw error;
      return null;
    } finally {
      work.done();
    }
  };

  router.post('/databases', async (request, response) => {
    const came = await receive(request, response);
    if (came === null) return;
    const tree = store.add(came.brought.title, came.brought.text, 'brought in', came.database);
    store.setArrival(tree.id, keptArrival(came), came.database);
    databases.renew(tree);
    response.status(201).json({ tree: messageOf(tree), arrival: came.arrival } satisfies BroughtInTree);
  });

  router.get('/progress/:job', (request, response) => {
    response.set({ 'content-type': 'text/event-stream', 'cache-control': 'no-store' });
    response.flushHeaders();
    const unwatch = progress.watch(request.params.job, (what) =>
      response.write(`data: ${JSON.stringify({ what } satisfies WorkStep)}\n\n`),
    );
    request.on('close', unwatch);
  });

  router.get('/trees/:id/arrival', (request, response) => {
    const kept = arrivalOf(store, request.params.id);
    if (kept === null) notFound(response, 'How this tree came in');
    else response.json(kept.arrival);
  });

  router.post('/trees/:id/again', async (request, response) => {
    const tree = store.tree(request.params.id);
    const kept = arrivalOf(store, request.params.id);
    if (tree === null || kept === null) {
      notFound(response, 'This tree, or how it came in,');
      return;
    }
    const came = await receive(request, response);
    if (came === null) return;
    // The file may be another by now, under the same name.
    if (came.arrival.source.kind === 'path') await databases.reopen(tree);
    const { text, changes } = bringAgain(tree.text, existingOf(kept), came.brought.existing);
    const id = randomUUID();
    pending.set(id, { ...came, tree: tree.id });
    for (const [old, { database }] of pending) {
      if (pending.size <= MOST_PENDING) break;
      pending.delete(old);
      await forget(folder, database);
    }
    const answer: BroughtAgain = { pending: id, basedOn: tree.revision, text, changes: changes.map((change) => ({ ...change })) };
    response.json(answer);
  });

  router.post('/trees/:id/again/:pending', async (request, response) => {
    const wanted = bodyOf(SaveText, request, response);
    if (wanted === null) return;
    const came = pending.get(request.params.pending);
    const before = store.tree(request.params.id);
    if (came === undefined || before === null || came.tree !== before.id) {
      notFound(response, 'What was brought in again');
      return;
    }
    const outcome = store.save(before.id, wanted.text, titleIn(wanted.text), wanted.basedOn);
    if (outcome.kind !== 'saved') {
      response.status(409).json({
        message: 'The text was changed in between. Bring the database in again, to see the changes to it as it is now.',
      });
      return;
    }
    pending.delete(request.params.pending);
    store.setArrival(before.id, keptArrival(came), came.database);
    const saved = store.tree(before.id);
    if (saved === null) return;
    await databases.reopen(saved);
    if (before.database !== null && before.database !== came.database) await forget(folder, before.database);
    events.send(saved.id, { kind: 'text', revision: saved.revision, source: 'page' });
    response.json(messageOf(saved));
  });

  return router;
}

/** Takes an upload to the data folder, and brings it in from there. */
async function uploaded(request: Request, { folder, uploadLimit }: BringInRoutes, step: (what: string) => void): Promise<Came> {
  const name = typeof request.query.name === 'string' ? request.query.name.slice(0, 200) : 'database.db';
  const id = randomUUID();
  const path = join(folder, `${id}.uploading`);
  const file = `${id}.db`;
  try {
    const announced = Number(request.headers['content-length'] ?? 0);
    if (announced > uploadLimit) throw new Refused(413, tooLarge(name, uploadLimit));
    const isScript = /\.sql$/i.test(name);
    await pipeline(request, checked(name, uploadLimit, isScript), createWriteStream(path, { flags: 'wx' }));
    const brought = isScript
      ? await bringInScript(path, titleOf(name), join(folder, file), step)
      : await bringIn(path, titleOf(name), join(folder, file), step);
    if (!brought.ok) throw new Refused(422, brought.problem.message.replaceAll(path, name).replaceAll(`${id}.uploading`, name));
    if (brought.value.path === path) await rename(path, join(folder, file));
    return { brought: brought.value, database: file, arrival: { ...arrivalFrom(brought.value, 'upload', name), copied: null } };
  } catch (error) {
    await removeAt(join(folder, file));
    throw error;
  } finally {
    await removeAt(path);
  }
}

/** Brings in a file below the given folder, where it lies. */
async function whereItLies(wanted: string, { folder, given }: BringInRoutes, step: (what: string) => void): Promise<Came> {
  const path = given === null ? null : resolve(given, wanted);
  if (given === null || path === null || !path.startsWith(resolve(given) + sep))
    throw new Refused(
      403,
      'Only files below the folder that was given at the start can be brought in. Start the server with --folder.',
    );
  const file = `${randomUUID()}.db`;
  const copy = join(folder, file);
  const brought = /\.sql$/i.test(path)
    ? await bringInScript(path, titleOf(path), copy, step)
    : await bringIn(path, titleOf(path), copy, step);
  if (!brought.ok) {
    await removeAt(copy);
    throw new Refused(422, brought.problem.message);
  }
  const database = brought.value.path === path ? path : file;
  return { brought: brought.value, database, arrival: arrivalFrom(brought.value, 'path', wanted) };
}

function arrivalFrom(
  { summary, kept, report, copied, script }: BroughtIn,
  kind: Arrival['source']['kind'],
  name: string,
): Arrival {
  return {
    source: { kind, name },
    at: new Date().toISOString(),
    summary,
    kept: [...kept],
    report: [...report],
    copied,
    script: script === null ? null : { ...script, failed: [...script.failed], refused: [...script.refused] },
  };
}

function keptArrival({ arrival, brought }: Came): string {
  const { schema, statements } = brought.existing;
  const kept: KeptArrival = { arrival, existing: { schema, statements: Array.from(statements) } };
  return JSON.stringify(kept);
}

function arrivalOf(store: Store, id: string): KeptArrival | null {
  const text = store.arrival(id);
  if (text === null) return null;
  // The program's own words, written by it alone; the part that goes out is looked at all the same.
  const kept = JSON.parse(text) as KeptArrival;
  return { ...kept, arrival: v.parse(Arrival, kept.arrival) };
}

function existingOf({ existing }: KeptArrival): Existing {
  return { schema: existing.schema, statements: new Map(existing.statements) };
}

/** Removes a database of the data folder; a file that lies elsewhere is somebody else's. */
async function forget(folder: string, database: string): Promise<void> {
  if (!isAbsolute(database)) await removeAt(join(folder, database));
}

function tooLarge(name: string, limit: number): string {
  return `${name} is larger than the ${Math.round(limit / 1024 / 1024)} MB that may be uploaded. Start the server with a higher --upload-limit, or with --folder to bring it in where it lies.`;
}

/** Passes the bytes through, and refuses what does not begin like a SQLite file or grows past the limit. */
function checked(name: string, limit: number, isScript: boolean): Transform {
  let size = 0;
  let head = Buffer.alloc(0);
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      size += chunk.length;
      if (head.length < HEADER.length) {
        head = Buffer.concat([head, chunk]).subarray(0, HEADER.length);
        if (!isScript && !HEADER.subarray(0, head.length).equals(head)) {
          done(
            new Refused(
              422,
              `${name} is no SQLite database, or it is encrypted. Open it with the program that wrote it, and save it as an ordinary SQLite file; a SQL script needs a name that ends in .sql.`,
            ),
          );
          return;
        }
      }
      if (size > limit) done(new Refused(413, tooLarge(name, limit)));
      else done(null, chunk);
    },
    flush(done) {
      done(
        head.length < (isScript ? 1 : HEADER.length)
          ? new Refused(422, `${name} is empty, or too short to be ${isScript ? 'a script' : 'a database'}.`)
          : null,
      );
    },
  });
}
