import { mkdir, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { type Design, readDesign } from '../core/design/index.js';
import { FORMAT_NAMES, type FormatName, type FormatOptions, formats, picturedDocument } from '../core/formats/index.js';
import type { DialectName } from '../core/notation/index.js';
import { examplesOf } from '../services/index.js';
import { openGiven } from './place.js';
import { readText } from './report.js';

/** The formats of the command line: PNG is drawn here, and by a browser on the page. */
export const EXPORTED = [...FORMAT_NAMES, 'png'] as const;

export interface ExportFlags {
  readonly format: FormatName | 'png';
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
  if (format === 'markdown' && out !== undefined) return writePictured(design, out);
  const examples = db === undefined ? undefined : await examplesIn(file, text, db, timeout * 1000);
  const made = await madeIn(format, design, {
    dark,
    ...(dialect === undefined ? {} : { dialect }),
    ...(kin === undefined ? {} : { kin }),
    ...(examples === undefined ? {} : { examples }),
  });
  if (out === undefined) process.stdout.write(made);
  else await writeFile(out, made);
}

async function madeIn(format: ExportFlags['format'], design: Design, options: FormatOptions): Promise<string | Buffer> {
  if (format !== 'png') return formats[format].made(design, options);
  // What draws is a large library, which no other command needs.
  const { LETTERS, pngOf } = await import('./png.js');
  return pngOf(formats.svg.made(design, { ...options, letters: LETTERS }));
}

/** Writes a document, and its pictures into a folder beside it, to which it leads by their names alone. */
async function writePictured(design: Design, out: string): Promise<void> {
  const folder = `${basename(out).replace(/\.[^.]*$/, '')}-pictures`;
  const { text, pictures } = picturedDocument(design, folder);
  await mkdir(join(dirname(out), folder), { recursive: true });
  for (const { file, svg } of pictures) await writeFile(join(dirname(out), folder, file), svg);
  await writeFile(out, text);
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
