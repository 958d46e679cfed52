import { isAbsolute, join, resolve } from 'node:path';
import {
  type Embedded,
  fileEngine,
  type Outcome,
  openAt,
  openScratch as openOnServer,
  type ServerAccess,
} from '../../engines/index.js';
import { type OpenScratch, removeAt, type ScratchDatabase } from '../../services/index.js';
import { inUseOf, partOf } from '../store/index.js';
import type { DatabaseAccess, Writable } from './database-access.js';

/** Which database of a design is meant. */
export type DatabaseMeant =
  /** The one that the tree looks at as it is. */
  | { readonly kind: 'in use' }
  /** A file of the data folder. */
  | { readonly kind: 'file'; readonly path: string; readonly label: string }
  | { readonly kind: 'server'; readonly access: ServerAccess; readonly address: string };

/** A database of a design, and what it takes to plan and to carry out changes of it. */
export interface DesignDatabase {
  /** Opens it; whoever does closes it again. */
  open(mode: 'look' | 'write'): Writable;
  /** An empty database of the same engine, to see what a text asks of it. */
  readonly scratch: OpenScratch;
  /** The file that it is; null for one that is none. */
  readonly file: string | null;
  /** Whether the file lies where it lies: then it is copied beside itself before it is changed. */
  readonly inPlace: boolean;
  /** Of a server: the schemas that are the tree's; null for all. */
  readonly schemas: readonly string[] | null;
  /** By what a person's agreement to SQL is kept that is run there; null where it is run in files of this program's own first. */
  readonly agreedAt: string | null;
  /** How its server is opened; null for what is on none. */
  readonly server: ServerAccess | null;
}

/** A statement of a plan may take as long as this, in milliseconds. */
const LONGEST_STATEMENT = 600_000;

/** A database of a design, found where it is; or why it cannot be worked with. */
export function designDatabase(
  meant: DatabaseMeant,
  wanted: DatabaseAccess,
  embedded: Embedded | null,
): DesignDatabase | { readonly problem: string } {
  const { tree, folder, access } = wanted;
  if (meant.kind === 'file') return fileDatabase(meant.path, meant.label, { folder, tree: tree.id, inPlace: false });
  if (meant.kind === 'server') return serverDatabase(meant.access, meant.address, tree.id, null);
  if (tree.kind === 'made')
    return { problem: 'This tree looks at no database: its rows are made from the text. Make one for it.' };
  const { kind } = inUseOf(tree);
  if (kind === 'embedded') {
    if (embedded === null) return { problem: 'The embedded database of this tree is not open yet. Try again in a moment.' };
    const engine = embedded.at(null);
    return {
      open: () => ({ engine, close: () => Promise.resolve() }),
      scratch: (design) => openOnServer({ kind: 'embedded', embedded }, { ...nameFor(tree.id, 'embedded'), design }),
      file: null,
      inPlace: false,
      schemas: partOf(tree).schemas,
      agreedAt: tree.address,
      server: null,
    };
  }
  if (kind === 'server') {
    if (access === null || 'problem' in access) return access ?? { problem: 'This tree names no server.' };
    if (tree.unlocked !== 1)
      return {
        problem:
          'The server is locked: nothing is written there. To see what the text asks of it, a scratch database is made on it and taken away again. Unlock it in the top bar.',
      };
    return serverDatabase(access.access, tree.address ?? '', tree.id, partOf(tree).schemas);
  }
  const path = resolve(folder, tree.database ?? '');
  return fileDatabase(path, tree.title, { folder, tree: tree.id, inPlace: isAbsolute(tree.database ?? '') });
}

function fileDatabase(
  path: string,
  label: string,
  { folder, tree, inPlace }: { readonly folder: string; readonly tree: string; readonly inPlace: boolean },
): DesignDatabase {
  return {
    open: (mode) => {
      const engine = fileEngine.open({ path, mode, milliseconds: LONGEST_STATEMENT, label });
      return { engine, close: () => engine.close() };
    },
    scratch: () => Promise.resolve({ ok: true, value: scratchFile(scratchPath(folder, tree), 'make', 'The tables of the text') }),
    file: path,
    inPlace,
    schemas: null,
    agreedAt: null,
    server: null,
  };
}

let scratches = 0;

/** A file of the data folder that is removed at the next start, if it is there then. */
export function scratchPath(folder: string, tree: string): string {
  scratches += 1;
  return join(folder, `${tree}.plan-${process.pid}.scratch-${scratches}.db`);
}

/** A file to try things in. */
export function scratchFile(path: string, mode: 'make' | 'write', label: string): ScratchDatabase {
  const engine = fileEngine.open({ path, mode, milliseconds: LONGEST_STATEMENT, label });
  return {
    engine,
    remove: async () => {
      await engine.close();
      await removeAt(path);
    },
  };
}

function serverDatabase(access: ServerAccess, address: string, tree: string, schemas: readonly string[] | null): DesignDatabase {
  const patient = { ...access, milliseconds: LONGEST_STATEMENT };
  return {
    open: () => {
      const engine = openAt(patient);
      return { engine, close: () => engine.close() };
    },
    scratch: (design): Promise<Outcome<ScratchDatabase>> =>
      openOnServer({ kind: 'server', access: patient }, { ...nameFor(tree, address), design, likeInUse: true }),
    file: null,
    inPlace: false,
    schemas,
    agreedAt: address,
    server: access,
  };
}

/** The places where what an ended process left was taken away. */
const swept = new Set<string>();

function nameFor(tree: string, at: string): { readonly stem: string; readonly name: string; readonly first: boolean } {
  scratches += 1;
  const first = !swept.has(at);
  swept.add(at);
  return { stem: `p${tree.replaceAll('-', '').slice(0, 11)}`, name: `${process.pid}_${scratches}`, first };
}
