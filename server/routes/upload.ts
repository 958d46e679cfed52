import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Router } from 'express';
import type { BroughtInTree } from '../../contract/index.js';
import { bringIn, titleOf } from '../../services/index.js';
import type { Store } from '../store/index.js';
import { messageOf } from './messages.js';

export interface UploadRoutes {
  readonly store: Store;
  readonly folder: string;
  readonly uploadLimit: number;
}

const HEADER = Buffer.from('SQLite format 3\0', 'latin1');

/** An upload that cannot be taken, in words for the person who sent it. */
class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** Bringing in a SQLite file: streamed to the data folder, looked at, and given a text. */
export function uploadRoutes({ store, folder, uploadLimit }: UploadRoutes): Router {
  const router = Router();
  router.post('/databases', async (request, response) => {
    const name = typeof request.query.name === 'string' ? request.query.name.slice(0, 200) : 'database.db';
    const id = randomUUID();
    const path = join(folder, `${id}.uploading`);
    try {
      const announced = Number(request.headers['content-length'] ?? 0);
      if (announced > uploadLimit) throw new Refused(413, tooLarge(name, uploadLimit));
      await pipeline(request, checked(name, uploadLimit), createWriteStream(path, { flags: 'wx' }));
      const brought = await bringIn(path, titleOf(name));
      if (!brought.ok) throw new Refused(422, brought.problem.message.replaceAll(`${id}.uploading`, name));
      const file = `${id}.db`;
      await rename(path, join(folder, file));
      const { text, summary, report, title } = brought.value;
      const message: BroughtInTree = {
        tree: messageOf(store.add(title, text, 'brought in', file)),
        summary,
        report: [...report],
      };
      response.status(201).json(message);
    } catch (error) {
      for (const suffix of ['', '-wal', '-shm']) await rm(`${path}${suffix}`, { force: true });
      if (error instanceof Refused) {
        response.status(error.status).set('connection', 'close').json({ message: error.message });
      } else if ((error as NodeJS.ErrnoException).code === 'ENOSPC') {
        response.status(507).json({ message: `${name} does not fit on the disk of this machine.` });
      } else if (!request.destroyed || !response.headersSent) {
        throw error;
      }
    }
  });
  return router;
}

function tooLarge(name: string, limit: number): string {
  return `${name} is larger than the ${Math.round(limit / 1024 / 1024)} MB that may be uploaded. Start the server with a higher --upload-limit.`;
}

/** Passes the bytes through, and refuses what does not begin like a SQLite file or grows past the limit. */
function checked(name: string, limit: number): Transform {
  let size = 0;
  let head = Buffer.alloc(0);
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      size += chunk.length;
      if (head.length < HEADER.length) {
        head = Buffer.concat([head, chunk]).subarray(0, HEADER.length);
        if (!HEADER.subarray(0, head.length).equals(head)) {
          done(
            new Refused(
              422,
              `${name} is no SQLite database, or it is encrypted. Open it with the program that wrote it, and save it as an ordinary SQLite file.`,
            ),
          );
          return;
        }
      }
      if (size > limit) done(new Refused(413, tooLarge(name, limit)));
      else done(null, chunk);
    },
    flush(done) {
      done(head.length < HEADER.length ? new Refused(422, `${name} is empty, or too short to be a database.`) : null);
    },
  });
}
