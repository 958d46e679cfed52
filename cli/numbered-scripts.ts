import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { applying, scriptThatNotes } from '../services/index.js';
import { rehearsed } from './rehearse.js';
import type { PlanAtHand, PlanFlags } from './with-plan.js';

/**
 * Writes a plan as numbered files, forth and back, for those who deploy by scripts. Each notes itself in the history of the database:
 * what has run is told there, and nothing runs twice. Gives the names of the files. @throws with words for a person
 */
export async function writeScripts(
  at: PlanAtHand,
  folder: string,
  name: string,
  { schema, ...flags }: PlanFlags,
): Promise<readonly string[]> {
  const { engine, planned, text, now } = at;
  const request = applying(planned, { text, name, now, schemas: schema ?? null });
  const number = (planned.history[0]?.number ?? 0) + 1;
  const stem = `${String(number).padStart(4, '0')}-${slug(name)}`;
  const { back } = await rehearsed(at, request, flags);
  const files = [
    { file: `${stem}.sql`, script: scriptThatNotes(engine, planned, request.noted) },
    { file: `${stem}-back.sql`, script: back.noting },
  ].filter(({ script }) => script !== '');
  await mkdir(folder, { recursive: true });
  for (const { file, script } of files)
    await writeFile(join(folder, file), script, { flag: 'wx' }).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'EEXIST')
        throw new Error(`${join(folder, file)} is there already. Give the plan another name, or move the file.`);
      throw error;
    });
  return files.map(({ file }) => join(folder, file));
}

/** A name as part of a file's name. */
function slug(name: string): string {
  const words = name
    .normalize('NFKD')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-+|-+$/g, '')
    .slice(0, 60);
  return words === '' ? 'changes' : words;
}
