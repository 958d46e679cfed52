import { writeFile } from 'node:fs/promises';
import { readDesign } from '../core/design/index.js';
import { type FormatName, formats } from '../core/formats/index.js';
import type { DialectName } from '../core/notation/index.js';
import { examplesOf } from '../services/index.js';
import { openGiven } from './place.js';
import { readText } from './report.js';

export interface ExportFlags {
  readonly format: FormatName;
  readonly dialect?: DialectName;
  readonly db?: string;
  readonly out?: string;
  readonly kin?: string;
  readonly dark?: boolean;
  readonly timeout: number;
}

/** Writes a design in a format that others read. @throws where something is wrong in the text, or there is no such entity */
export async function exportDesign(
  file: string,
  { format, dialect, db, out, kin, dark = false, timeout }: ExportFlags,
): Promise<void> {
  const text = await readText(file);
  const design = readDesign(text, dialect ?? null);
  const broken = design.findings.find(({ weight }) => weight === 'error');
  if (broken !== undefined && format !== 'kin') throw new Error(`${file} has something wrong in it: ${broken.message}`);
  if (kin !== undefined && !design.model.entities.has(kin)) throw new Error(`There is no entity ${kin} in ${file}.`);
  const examples = db === undefined ? undefined : await examplesIn(file, text, db, timeout * 1000);
  const made = formats[format].made(design, {
    dark,
    ...(dialect === undefined ? {} : { dialect }),
    ...(kin === undefined ? {} : { kin }),
    ...(examples === undefined ? {} : { examples }),
  });
  if (out === undefined) process.stdout.write(made);
  else await writeFile(out, made);
}

async function examplesIn(file: string, text: string, db: string, milliseconds: number) {
  const { engine, close } = await openGiven(db, milliseconds);
  try {
    const design = readDesign(text, engine.dialect);
    const examples = await examplesOf({ design, engine, sampleKeys: {}, madeHere: await engine.wasMadeHere() });
    if ('problem' in examples) throw new Error(`${file}: ${examples.problem}`);
    return examples.examples;
  } finally {
    await close();
  }
}
