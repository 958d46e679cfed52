import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { type Design, readDesign } from '../core/design/index.js';
import { type ColumnUse, columnsOut, readUse } from '../core/row-files/index.js';
import { namedKeys } from '../core/samples/index.js';
import type { RowFile } from '../engines/index.js';
import { nowOf, takeRowsOut } from '../services/index.js';
import { openGiven } from './place.js';
import { readText } from './report.js';

export interface ExportRowsFlags {
  readonly db: string;
  readonly columns?: readonly string[];
  readonly order: string;
  readonly form: RowFile['form'];
  readonly delimiter: string;
  readonly nothing: string;
  readonly out?: string;
  readonly timeout: number;
}

const ROWS = /^\s*(\w+)\s*(?:\[(.*)\])?\s*$/s;

/** Writes rows of a database as lines of CSV or of JSON. @throws with words for a person */
export async function exportRows(file: string, wanted: string, options: ExportRowsFlags): Promise<void> {
  const text = await readText(file);
  const [, entity = '', where = ''] = ROWS.exec(wanted) ?? [];
  const { engine, close } = await openGiven(options.db, options.timeout * 1000);
  try {
    const design = readDesign(text, engine.dialect);
    if (!design.model.entities.has(entity))
      throw new Error(
        `Write an entity, or one with a condition, as in “Player[town = 'Ferren']”; “${wanted}” is none of ${file}.`,
      );
    const madeHere = await engine.wasMadeHere();
    const sampleKeys = namedKeys(design.model, nowOf(design.model, true));
    const out = options.out === undefined ? process.stdout : createWriteStream(options.out);
    const rows = { entity, where, orderBy: options.order, via: null };
    const { form, delimiter, nothing } = options;
    const columns = columnsOf(design, entity, options.columns);
    const taken = await takeRowsOut(
      { design, engine, sampleKeys, madeHere },
      { rows, columns, form, delimiter, nothing },
      async (piece) => {
        if (!out.write(piece)) await once(out, 'drain');
      },
    );
    if (out !== process.stdout) await new Promise<void>((resolve) => out.end(resolve));
    if (!taken.ok) {
      for (const { message } of taken.findings) process.stderr.write(`${message}\n`);
      for (const problem of taken.problems) process.stderr.write(`${problem}\n`);
      process.exitCode = 1;
      return;
    }
    process.stderr.write(`${taken.rows.toLocaleString('en')} row${taken.rows === 1 ? '' : 's'}.\n`);
    if (taken.alike > 0)
      process.stderr.write(
        `${taken.alike.toLocaleString('en')} texts are the same as what stands for nothing, and would come back as nothing. Choose another with --nothing.\n`,
      );
  } finally {
    await close();
  }
}

/** @throws with words for a person, where one is nothing that rows of the entity have */
function columnsOf({ model }: Design, entity: string, wanted: readonly string[] | undefined): readonly ColumnUse[] {
  if (wanted === undefined) return columnsOut(model, entity);
  return wanted.map((written) => {
    const use = readUse(model, entity, written);
    if ('problem' in use) throw new Error(use.problem);
    return use;
  });
}
