import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { LinesAsk, LinesTold } from '../../contract/index.js';
import { placeOfRows, type Store, type StoredTree } from '../store/index.js';
import type { FoundFile, LinesWish, LinesWritten } from '../workers/index.js';
import type { Databases } from './databases.js';
import { Waiting } from './waiting.js';

/** A file that was sent to become rows of a tree. */
export interface SentRows {
  readonly tree: string;
  /** Its name in the data folder, and the one that a person gave it. */
  readonly file: string;
  readonly name: string;
  readonly found: Extract<FoundFile, { ok: true }>;
}

/** A larger file is not kept with a scratch database: each change of the text would wait for it. */
const LARGEST_KEPT = 4 * 1024 * 1024;

/** The files of rows that were sent, from when they come until they are put in and kept, or let go of. */
export class RowFiles {
  private readonly waiting = new Waiting<SentRows>();

  constructor(
    private readonly folder: string,
    private readonly store: Store,
    private readonly databases: Databases,
  ) {}

  /** A name for a file that is to come; one that nobody keeps is removed at the next start. */
  nextName(): string {
    const file = `${randomUUID()}.lines`;
    this.store.noteFile(file);
    return file;
  }

  async add(sent: SentRows): Promise<string> {
    const { id, dropped } = this.waiting.add(sent);
    for (const { file } of dropped) await this.remove(file);
    return id;
  }

  of(tree: string, id: string): SentRows | null {
    return this.waiting.of(tree, id);
  }

  /** Lets go of a file; where it was put in and is kept, it stays with what was written. */
  async forget(tree: string, id: string): Promise<void> {
    const sent = this.waiting.of(tree, id);
    this.waiting.remove(id);
    if (sent !== null) await this.remove(sent.file);
  }

  /** Where the lines of a file that were refused are. */
  refusedOf({ file }: SentRows): string {
    return join(this.folder, `${file}.refused`);
  }

  /** Puts the lines of a file in, and keeps what was written: of a scratch database the file, of another how its rows were. */
  async putIn(
    tree: StoredTree,
    sent: SentRows,
    asked: LinesAsk,
    options: { readonly signal: AbortSignal; readonly step: (what: unknown) => void },
  ): Promise<LinesTold> {
    const { form, columns, delimiter, bytes } = sent.found;
    const wish: LinesWish = {
      ...asked,
      file: { path: join(this.folder, sent.file), form, columns, delimiter },
      refusedTo: this.refusedOf(sent),
      seed: randomUUID(),
    };
    const brought = this.databases.broughtOf(tree.id);
    const answer = await this.databases.ask(tree, 'lines in', wish, options);
    if ('problem' in answer) return { ok: false, problems: [answer.problem] };
    const written = JSON.parse(answer.json) as LinesWritten;
    if (!written.ok) return written;
    const { undo, ...told } = written;
    if (asked.preview || !told.kept || told.created + told.updated === 0) return { ...told, passing: null };
    const place = placeOfRows(tree);
    if (place === null && bytes > LARGEST_KEPT)
      return {
        ...told,
        passing: `The file is larger than ${LARGEST_KEPT / 1024 / 1024} MB, so that it is not put in again when the rows are made anew, as after a change of the text.`,
      };
    const lacks = undo?.lacks.join('; ') ?? '';
    const { path: _path, ...file } = wish.file;
    this.databases.keep(tree, `${told.lines.toLocaleString('en')} lines of ${sent.name} as rows of ${asked.entity}`, {
      seed: wish.seed,
      brought,
      place,
      undo: place === null ? null : JSON.stringify(undo),
      lacks: lacks === '' ? null : lacks,
      ...(place === null ? { lines: { file: sent.file, wish: JSON.stringify({ ...asked, file }) } } : {}),
    });
    return { ...told, passing: null };
  }

  /** Removes a file, unless it is kept with what was written. */
  private async remove(file: string): Promise<void> {
    if (this.store.keepsFile(file)) return;
    for (const name of [file, `${file}.refused`]) await rm(join(this.folder, name), { force: true });
    this.store.forgetNote(file);
  }
}
