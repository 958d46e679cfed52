import { readdir, realpath } from 'node:fs/promises';
import { join, relative, resolve, sep } from 'node:path';
import { Router } from 'express';
import { OpenFile } from '../../contract/index.js';
import { fileEngine } from '../../engines/index.js';
import type { BoundFiles } from '../jobs/index.js';
import { bodyOf } from './answers.js';
import { messageOf } from './messages.js';

/** Opening `.kin` files of one's own, below the folder that was given at the start and nowhere else. */
export function fileRoutes({ files, folder }: { files: BoundFiles; folder: string | null }): Router {
  const router = Router();
  router.post('/files', async (request, response) => {
    const wanted = bodyOf(OpenFile, request, response);
    if (wanted === null) return;
    const path = folder === null ? null : await pathBelow(folder, wanted.path);
    if (path === null || !path.endsWith('.kin')) {
      response.status(403).json({ message: 'Only .kin files below the folder that was given at the start can be opened.' });
      return;
    }
    const opened = await files.open(path);
    if ('problem' in opened) response.status(422).json({ message: opened.problem });
    else response.status(201).json(messageOf(opened));
  });
  return router;
}

/** Where a file really lies that is named below a folder; null where its name, or a link, leads out of the folder. */
export async function pathBelow(folder: string, wanted: string): Promise<string | null> {
  const named = resolve(folder, wanted);
  if (!named.startsWith(resolve(folder) + sep)) return null;
  const path = await realpath(named).catch(() => null);
  // What is not there is said by whoever reads it.
  if (path === null) return named;
  return path.startsWith((await realpath(folder)) + sep) ? path : null;
}

/** A text, or a script. */
const TEXT = /\.(kin|sql)$/i;
const isText = (path: string) => path.endsWith('.kin');

const MOST_FILES = 300;
const DEEPEST = 6;
const PASSED_OVER = new Set(['node_modules', 'dist', 'build', 'vendor', 'target']);

/** The files below a folder that can be opened or brought in, as paths from it. Folders that hold what others made are passed over. */
export async function filesBelow(folder: string): Promise<{ files: string[]; databases: string[] }> {
  const found: string[] = [];
  const look = async (here: string, depth: number): Promise<void> => {
    const entries = await readdir(here, { withFileTypes: true }).catch(() => []);
    for (const entry of entries) {
      if (found.length >= MOST_FILES) return;
      const path = join(here, entry.name);
      if (entry.isFile() && (TEXT.test(entry.name) || fileEngine.ending.test(entry.name))) found.push(relative(folder, path));
      const passed = entry.name.startsWith('.') || PASSED_OVER.has(entry.name);
      if (entry.isDirectory() && !passed && depth < DEEPEST) await look(path, depth + 1);
    }
  };
  await look(folder, 0);
  found.sort();
  return { files: found.filter(isText), databases: found.filter((path) => !isText(path)) };
}
