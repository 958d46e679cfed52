import { createReadStream } from 'node:fs';
import { open, stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { TextDecoder } from 'node:util';
import Papa from 'papaparse';
import type { FileLine, FileValue } from '../core/row-files/index.js';
import type { RowFile } from './engine.js';

/** A file that cannot be read as rows, in words for a person. */
export class UnreadableFile extends Error {}

/** Lines of a file, and how much of it has been read so far, in bytes. */
export interface LineBatch {
  readonly lines: readonly FileLine[];
  readonly read: number;
  readonly bytes: number;
}

const CHUNK = 64 * 1024;
/** A line longer than this, in characters, is taken for a quote that nobody closed, and is not held. */
const LONGEST_LINE = 16 * 1024 * 1024;
/** So many lines say which columns a file of JSON lines has. */
const TELLING_LINES = 1000;
/** More columns than an entity can have fields. */
const MOST_COLUMNS = 2000;
/** So much of a file is looked at to know its columns. */
const HEAD = 4 * 1024 * 1024;

/** The beginning of a file: its columns, what stands between them, and its first lines. */
export interface FileHead {
  readonly form: RowFile['form'];
  readonly columns: readonly string[];
  readonly delimiter: string;
  readonly lines: readonly FileLine[];
}

/**
 * Reads a file's lines, some at a time, and holds no more of it than that.
 *
 * @throws {UnreadableFile} where it is no text, or no such file
 */
export async function* linesOf(
  file: RowFile,
  { together, most }: { readonly together: number; readonly most: number | null },
): AsyncGenerator<LineBatch> {
  const source = new Source(file.path);
  const { size: bytes } = await statOf(file.path);
  let left = most ?? Number.POSITIVE_INFINITY;
  const rows = file.form === 'csv' ? csvLines(file, source) : jsonLines(file, source);
  for await (const lines of rows)
    for (let from = 0; from < lines.length; from += together) {
      const some = lines.slice(from, from + Math.min(together, left));
      left -= some.length;
      if (some.length > 0) yield { lines: some, read: source.read, bytes };
      if (left <= 0) return;
    }
}

/**
 * Looks at the beginning of a file.
 *
 * @param between what stands between the values of CSV; left out, it is told by the first line
 * @throws {UnreadableFile} where it is no text, or has no columns
 */
export async function headOf(path: string, form: RowFile['form'], most: number, between?: string): Promise<FileHead> {
  const text = await beginningOf(path);
  if (form === 'json lines') {
    const lines = text.split('\n').slice(0, TELLING_LINES);
    const columns = new Set<string>();
    for (const line of lines) {
      const read = line.trim() === '' ? null : objectIn(line);
      if (read !== null && !('problem' in read)) for (const name of Object.keys(read.values)) columns.add(name);
    }
    if (columns.size === 0)
      throw new UnreadableFile(
        'Its first line is no JSON object. A file of JSON lines has one object in each line, as {"name": "Ines"}.',
      );
    return headWith(path, { path, form, columns: Array.from(columns), delimiter: '' }, most);
  }
  const { data, meta } = Papa.parse<string[]>(text, {
    preview: 1,
    delimiter: between ?? '',
    delimitersToGuess: [',', ';', '\t', '|'],
  });
  const columns = (data[0] ?? []).map((name) => name.trim());
  if (columns.every((name) => name === ''))
    throw new UnreadableFile('Its first line names no columns. A file of CSV begins with their names.');
  const twice = columns.find((name, at) => name !== '' && columns.indexOf(name) !== at);
  if (twice !== undefined) throw new UnreadableFile(`Two of its columns are called “${twice}”. Give one another name.`);
  const named = columns.map((name, at) => (name === '' ? `column ${at + 1}` : name));
  return headWith(path, { path, form, columns: named, delimiter: meta.delimiter }, most);
}

async function headWith(path: string, file: RowFile, most: number): Promise<FileHead> {
  if (file.columns.length > MOST_COLUMNS)
    throw new UnreadableFile(
      `It has ${file.columns.length.toLocaleString('en')} columns, and rows have ${MOST_COLUMNS.toLocaleString('en')} fields at most. Is it no table, or parted by something else?`,
    );
  const lines: FileLine[] = [];
  for await (const batch of linesOf({ ...file, path }, { together: most, most })) lines.push(...batch.lines);
  const { form, columns, delimiter } = file;
  return { form, columns, delimiter, lines };
}

/** The text of a file as it is read, decoded by the mark that it begins with; UTF-8 where there is none. */
class Source {
  /** How many bytes have been read so far. */
  read = 0;

  constructor(private readonly path: string) {}

  async *texts(): AsyncGenerator<string> {
    let decoder: TextDecoder | null = null;
    try {
      for await (const chunk of createReadStream(this.path, { highWaterMark: CHUNK })) {
        const bytes = chunk as Buffer;
        decoder ??= decoderFor(bytes);
        this.read += bytes.length;
        const text = decoder.decode(bytes, { stream: true });
        if (text !== '') yield text;
      }
      const end = decoder?.decode() ?? '';
      if (end !== '') yield end;
    } catch (error) {
      throw readable(error);
    }
  }
}

/** The Unicode standard, 23.8: what a text begins with says how it is written. */
function decoderFor(bytes: Uint8Array): TextDecoder {
  const [first, second] = bytes;
  const encoding = first === 0xff && second === 0xfe ? 'utf-16le' : first === 0xfe && second === 0xff ? 'utf-16be' : 'utf-8';
  return new TextDecoder(encoding, { fatal: true });
}

function readable(error: unknown): unknown {
  if (error instanceof TypeError && 'code' in error && error.code === 'ERR_ENCODING_INVALID_ENCODED_DATA')
    return new UnreadableFile('It is no text in UTF-8. Save it as UTF-8, and bring it in again.');
  return error;
}

async function statOf(path: string): Promise<{ readonly size: number }> {
  try {
    return await stat(path);
  } catch {
    throw new UnreadableFile('The file is not there any more.');
  }
}

async function beginningOf(path: string): Promise<string> {
  const { size } = await statOf(path);
  if (size === 0) throw new UnreadableFile('The file is empty.');
  const file = await open(path);
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(Math.min(size, HEAD)), 0, Math.min(size, HEAD), 0);
    const bytes = buffer.subarray(0, bytesRead);
    // A letter may be cut at the end of what is looked at.
    return decoderFor(bytes).decode(bytes, { stream: bytesRead < size });
  } catch (error) {
    throw readable(error);
  } finally {
    await file.close();
  }
}

/** CSV (RFC 4180): a record may go over several lines, where a quote holds them together. */
async function* csvLines({ columns, delimiter }: RowFile, source: Source): AsyncGenerator<readonly FileLine[]> {
  let number = 1;
  let isHead = true;
  for await (const { rows, problems } of csvRows(source, delimiter)) {
    const lines: FileLine[] = [];
    for (let at = 0; at < rows.length; at++) {
      const values = rows[at] ?? [];
      const own = number;
      number += 1;
      for (const value of values) if (value.includes('\n')) number += value.split('\n').length - 1;
      if (isHead) {
        isHead = false;
        continue;
      }
      if (values.length === 1 && values[0] === '') continue;
      const problem = problems.get(at) ?? (values.length === columns.length ? null : misfit(values.length, columns.length));
      lines.push({ number: own, values, problem });
    }
    yield lines;
  }
}

function misfit(has: number, columns: number): string {
  const told = `It has ${has} ${has === 1 ? 'value' : 'values'}, and the file has ${columns} ${columns === 1 ? 'column' : 'columns'}.`;
  return has > columns ? `${told} A value with a comma in it stands in quotes.` : told;
}

interface CsvRows {
  readonly rows: readonly string[][];
  /** What is wrong with a row, by its place. */
  readonly problems: ReadonlyMap<number, string>;
}

/** Rows of CSV, as many at a time as a piece of the file holds. */
async function* csvRows(source: Source, delimiter: string): AsyncGenerator<CsvRows> {
  const waiting: { readonly rows: CsvRows; readonly goOn: () => void }[] = [];
  let wake = () => {};
  let ended = false;
  let failure: unknown = null;
  let held = 0;
  const tell = () => wake();
  const texts = Readable.from(
    watched(source, (length) => {
      held += length;
      if (held > LONGEST_LINE) throw new UnreadableFile(TOO_LONG);
    }),
  );
  Papa.parse<string[]>(texts, {
    delimiter,
    chunk: ({ data, errors }, parser) => {
      if (data.length > 0) held = 0;
      parser.pause();
      const problems = new Map(
        errors.flatMap(({ row, type, message }) => (row === undefined || type !== 'Quotes' ? [] : [[row, `${message}.`]])),
      );
      waiting.push({ rows: { rows: data, problems }, goOn: () => parser.resume() });
      tell();
    },
    complete: () => {
      ended = true;
      tell();
    },
    error: (error) => {
      failure = error;
      ended = true;
      tell();
    },
  });
  texts.on('error', (error) => {
    failure = error;
    ended = true;
    tell();
  });
  try {
    for (;;) {
      const next = waiting.shift();
      if (next !== undefined) {
        // The next piece is read while this one is put in.
        next.goOn();
        if (next.rows.rows.length > 0) yield next.rows;
      } else if (ended) break;
      else
        await new Promise<void>((resolve) => {
          wake = resolve;
        });
    }
    if (failure !== null) throw failure;
  } finally {
    texts.destroy();
  }
}

const TOO_LONG = `A line is longer than ${LONGEST_LINE / 1024 / 1024} MB: a quote in it is opened and not closed, or it is no such file.`;

async function* watched(source: Source, note: (length: number) => void): AsyncGenerator<string> {
  for await (const text of source.texts()) {
    note(text.length);
    yield text;
  }
}

async function* jsonLines({ columns }: RowFile, source: Source): AsyncGenerator<readonly FileLine[]> {
  let number = 0;
  const known = new Set(columns);
  const read = (text: string): FileLine | null => {
    number += 1;
    if (text.trim() === '') return null;
    const object = objectIn(text);
    if ('problem' in object) return { number, values: [], problem: object.problem };
    const other = Object.keys(object.values).find((name) => !known.has(name));
    const problem =
      other === undefined
        ? null
        : `It has “${other}”, which none of the first ${TELLING_LINES.toLocaleString('en')} lines has. Have it in one of those too, be it null.`;
    return {
      number,
      values: columns.map((name) => (Object.hasOwn(object.values, name) ? object.values[name] : undefined)),
      problem,
    };
  };
  for await (const texts of linesIn(source)) yield texts.flatMap((text) => read(text) ?? []);
}

/** The lines of a text file, one after the other; what ends one is a line feed alone. @throws {UnreadableFile} */
export async function* textLines(path: string): AsyncGenerator<string> {
  for await (const texts of linesIn(new Source(path))) yield* texts;
}

/** Lines, as many at a time as a piece of the file holds. */
async function* linesIn(source: Source): AsyncGenerator<readonly string[]> {
  let rest = '';
  for await (const text of source.texts()) {
    const parts = `${rest}${text}`.split('\n');
    rest = parts.pop() ?? '';
    if (rest.length > LONGEST_LINE) throw new UnreadableFile(TOO_LONG);
    yield parts;
  }
  if (rest !== '') yield [rest];
}

function objectIn(text: string): { readonly values: Readonly<Record<string, FileValue>> } | { readonly problem: string } {
  try {
    const value: unknown = JSON.parse(text);
    if (typeof value === 'object' && value !== null && !Array.isArray(value))
      return { values: value as Readonly<Record<string, FileValue>> };
    return { problem: 'It is JSON, and no object.' };
  } catch {
    return { problem: 'It is no JSON.' };
  }
}
