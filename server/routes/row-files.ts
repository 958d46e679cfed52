import { once } from 'node:events';
import { createReadStream, createWriteStream } from 'node:fs';
import { access, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { type Request, type Response, Router } from 'express';
import {
  type FileColumns,
  LinesAsk,
  type LinesTold,
  type LookedAtFile,
  RowsOutAsk,
  type WorkStep,
} from '../../contract/index.js';
import type { Databases, Progress, RowFiles } from '../jobs/index.js';
import { isForWantOfRoom, type Store, type StoredTree } from '../store/index.js';
import type { FoundFile, RowsOut } from '../workers/index.js';
import { answerOf, bodyOf, notFound } from './answers.js';
import { messageOfLimit, Refused } from './receive.js';

export interface RowFileRoutes {
  readonly store: Store;
  readonly databases: Databases;
  readonly files: RowFiles;
  readonly progress: Progress;
  /** Where files are kept. */
  readonly folder: string;
  readonly uploadLimit: number;
}

/** Files whose lines become rows, and rows that become the lines of a file. */
export function rowFileRoutes(routes: RowFileRoutes): Router {
  const { store, databases, files, progress, folder } = routes;
  const router = Router();

  /** The tree that a request names, or null once it was told that there is none. */
  const treeOf = (request: Request, response: Response): StoredTree | null => {
    const tree = store.tree(String(request.params.id));
    if (tree === null) notFound(response, 'This tree');
    return tree;
  };

  router.post('/trees/:id/files', async (request, response) => {
    const tree = treeOf(request, response);
    if (tree === null) return;
    const sent = await received(routes, tree, request, response);
    if (sent !== null) response.status(201).json(sent);
  });

  router.post('/trees/:id/files/:file/lines', async (request, response) => {
    const wanted = bodyOf(LinesAsk, request, response);
    const tree = wanted === null ? null : treeOf(request, response);
    if (wanted === null || tree === null) return;
    const sent = files.of(tree.id, String(request.params.file));
    if (sent === null) {
      response.status(404).json({ message: 'This file was let go of, or the program was started anew since. Choose it again.' });
      return;
    }
    const work = progress.begin(typeof request.query.job === 'string' ? request.query.job : '');
    const asking = new AbortController();
    response.on('close', () => {
      if (!response.writableEnded) asking.abort();
    });
    try {
      const step = (what: unknown) => {
        const { what: words, share } = what as WorkStep;
        work.step(words, share);
      };
      const told: LinesTold = await files.putIn(tree, sent, wanted, { signal: asking.signal, step });
      if (!response.destroyed) response.json(told);
    } finally {
      work.done();
    }
  });

  router.get('/trees/:id/files/:file/refused', async (request, response) => {
    const tree = treeOf(request, response);
    if (tree === null) return;
    const sent = files.of(tree.id, request.params.file);
    const path = sent === null ? null : files.refusedOf(sent);
    if (sent === null || path === null || !(await isThere(path))) {
      notFound(response, 'A file of lines that were refused');
      return;
    }
    attach(response, `refused ${sent.name}`);
    await pipeline(createReadStream(path), response).catch(() => undefined);
  });

  router.delete('/trees/:id/files/:file', async (request, response) => {
    await files.forget(request.params.id, request.params.file);
    response.status(204).end();
  });

  router.get('/trees/:id/entities/:entity/columns', async (request, response) => {
    const tree = treeOf(request, response);
    const none: FileColumns = { uses: [], whole: [] };
    if (tree !== null) await answerOf(databases, tree, 'file columns', request.params.entity, response, () => none);
  });

  router.post('/trees/:id/rows/file', async (request, response) => {
    const wanted = bodyOf(RowsOutAsk, request, response);
    const tree = wanted === null ? null : treeOf(request, response);
    if (wanted === null || tree === null) return;
    const path = join(folder, `${tree.id}.${Date.now()}.rows-out`);
    const asking = new AbortController();
    response.on('close', () => asking.abort());
    try {
      const answer = await databases.ask(tree, 'rows out', { ...wanted, path }, { signal: asking.signal });
      const out = 'problem' in answer ? ({ ok: false, problem: answer.problem } as const) : (JSON.parse(answer.json) as RowsOut);
      if (response.destroyed) return;
      if (!out.ok) {
        await rm(path, { force: true });
        response.status(422).json({ message: out.problem });
        return;
      }
      attach(response, `${wanted.entity}.${wanted.form === 'csv' ? 'csv' : 'jsonl'}`);
      response.set({ 'x-rows': String(out.rows), 'x-alike': String(out.alike) });
      const content = createReadStream(path);
      await once(content, 'open');
      // It is read to its end though it has no name any more, and nobody has to remove it then.
      await rm(path);
      await pipeline(content, response).catch(() => undefined);
    } finally {
      await rm(path, { force: true });
    }
  });

  return router;
}

/** Has a browser keep an answer as a file. */
function attach(response: Response, name: string): void {
  response.attachment(name).type('application/octet-stream').set('cache-control', 'no-store');
}

async function isThere(path: string): Promise<boolean> {
  return access(path).then(
    () => true,
    () => false,
  );
}

/** Takes a file to the data folder, and looks at it; null once the response says what is wrong with it. */
async function received(
  { files, databases, folder, uploadLimit }: RowFileRoutes,
  tree: StoredTree,
  request: Request,
  response: Response,
): Promise<LookedAtFile | null> {
  const name = typeof request.query.name === 'string' ? request.query.name.slice(0, 200) : 'lines.csv';
  const entity = typeof request.query.entity === 'string' ? request.query.entity : '';
  const file = files.nextName();
  const path = join(folder, file);
  try {
    const announced = Number(request.headers['content-length'] ?? 0);
    if (announced > uploadLimit) throw new Refused(413, messageOfLimit(name, uploadLimit, COMMAND));
    await pipeline(request, upTo(uploadLimit, name), createWriteStream(path, { flags: 'wx', mode: 0o600 }));
    const form = /\.(jsonl|ndjson|json)$/i.test(name) ? 'json lines' : 'csv';
    const answer = await databases.ask(tree, 'look at file', { path, form, entity });
    const found =
      'problem' in answer ? ({ ok: false, problem: answer.problem } as const) : (JSON.parse(answer.json) as FoundFile);
    if (!found.ok) throw new Refused(422, `${name} cannot be read. ${found.problem}`);
    const id = await files.add({ tree: tree.id, file, name, found });
    const { ok: _ok, delimiter: _delimiter, ...told } = found;
    return { ...told, file: id, name };
  } catch (error) {
    await rm(path, { force: true });
    if (error instanceof Refused) response.status(error.status).set('connection', 'close').json({ message: error.message });
    else if (isForWantOfRoom(error as NodeJS.ErrnoException))
      response.status(507).json({ message: 'The file does not fit on the disk of this machine.' });
    else if (!request.destroyed || !response.headersSent) throw error;
    return null;
  }
}

const COMMAND = 'put it in on the command line: family-tree import-rows';

/** Passes bytes through, up to a limit. */
function upTo(limit: number, name: string): Transform {
  let size = 0;
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      size += chunk.length;
      if (size > limit) done(new Refused(413, messageOfLimit(name, limit, COMMAND)));
      else done(null, chunk);
    },
  });
}
