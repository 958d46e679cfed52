import { type Request, type Response, Router } from 'express';
import { AgreeToSql, LockDatabase, type Surroundings, TryDatabase, UseDatabase } from '../../contract/index.js';
import { fileEngine, lookAround, readAddress } from '../../engines/index.js';
import { type Databases, type PlacesInUse, passwordIn, shownAddress } from '../jobs/index.js';
import { digestWithPowers, inUseOf, type Store, type StoredTree } from '../store/index.js';
import { bodyOf, notFound } from './answers.js';
import { pathBelow } from './files.js';
import { messageOf } from './messages.js';

export interface DatabaseRoutes {
  readonly store: Store;
  readonly databases: Databases;
  readonly places: PlacesInUse;
  /** The folder below which files may be looked at; null for none. */
  readonly given: string | null;
}

const LONGEST_TRY = 15_000;

/** A file with a database that can be looked at, or why it cannot. */
async function lookedAt(given: string | null, file: string): Promise<{ readonly path: string } | { readonly problem: string }> {
  const path = given === null ? null : await pathBelow(given, file);
  if (path === null)
    return {
      problem: `Only ${fileEngine.title} files below the folder that was given at the start can be looked at. Start the server with --folder, or bring the file in.`,
    };
  const engine = fileEngine.open({ path, mode: 'look', milliseconds: LONGEST_TRY, label: file });
  try {
    const found = await engine.answers();
    return found.ok ? { path } : { problem: found.problem.message };
  } finally {
    await engine.close();
  }
}

/** Choosing the database that a tree uses: trying an address, taking it, locking it. */
export function databaseRoutes(routes: DatabaseRoutes): Router {
  const { store, databases, places } = routes;
  const router = Router();

  router.post('/database/try', async (request: Request, response: Response) => {
    const wanted = bodyOf(TryDatabase, request, response);
    if (wanted === null) return;
    const found = await tried(places, wanted.address, wanted.password ?? passwordIn(wanted.address));
    // A page may offer to make what is not there.
    if ('problem' in found) response.status(found.isAbsent ? 404 : 422).json({ message: found.problem });
    else response.json(found);
  });

  router.put('/trees/:id/database', async (request, response) => {
    const wanted = bodyOf(UseDatabase, request, response);
    if (wanted === null) return;
    const tree = store.tree(request.params.id);
    if (tree === null) {
      notFound(response, 'This tree');
      return;
    }
    if (tree.arrived === 1) {
      response.status(409).json({
        message:
          'A tree that was brought in looks at the database that it came from. Bring the other one in as a tree of its own.',
      });
      return;
    }
    const taken = await takeDatabase(routes, tree, wanted);
    if ('problem' in taken) {
      response.status(422).json({ message: taken.problem });
      return;
    }
    await databases.reopen(taken);
    response.json(messageOf(taken));
  });

  router.patch('/trees/:id/database', async (request, response) => {
    const wanted = bodyOf(LockDatabase, request, response);
    const tree = store.tree(request.params.id);
    if (wanted === null) return;
    if (tree === null || inUseOf(tree).kind !== 'server') {
      notFound(response, 'A server of this tree');
      return;
    }
    store.setUnlocked(tree.id, wanted.unlocked);
    const changed = store.tree(tree.id);
    if (changed === null) return;
    if (changed.kind === 'made') await databases.reopen(changed);
    else databases.renew(changed);
    response.json(messageOf(changed));
  });

  router.use(makingRoutes(store, databases));
  return router;
}

/** What stands around the database of an address, or why it cannot be used. */
async function tried(
  places: PlacesInUse,
  address: string,
  password: string | null,
): Promise<Surroundings | { readonly problem: string; readonly isAbsent: boolean }> {
  const opened = await places.at(address, password, LONGEST_TRY);
  if ('problem' in opened) return { ...opened, isAbsent: false };
  const looked = await lookAround(opened.access);
  if (!looked.ok) return { problem: looked.problem.message, isAbsent: looked.problem.code === 'missing' };
  const { schemas, limits, ...about } = looked.value;
  return { ...about, address: shownAddress(address), schemas: schemas.map((schema) => ({ ...schema })), limits: [...limits] };
}

/** Keeps which database a tree uses from now on; gives the tree as it is then, or why it cannot be. */
async function takeDatabase(
  { store, places, given }: DatabaseRoutes,
  tree: StoredTree,
  wanted: UseDatabase,
): Promise<StoredTree | { readonly problem: string }> {
  const read = wanted.address === null ? null : readAddress(wanted.address);
  if (read !== null && !read.ok) return { problem: read.problem };
  if (read?.place.kind === 'file') return lookAtFile(store, given, tree, read.place.file);
  const password = wanted.password ?? (wanted.address === null ? null : passwordIn(wanted.address));
  // An address is tried before it is kept.
  if (read?.place.kind === 'server') {
    const found = await tried(places, wanted.address ?? '', password);
    if ('problem' in found) return found;
  }
  const address = read === null ? null : shownAddress(wanted.address ?? '');
  const kept = address === null ? null : places.remember(address, password, wanted.keepPassword);
  store.setLookedAt(tree.id, null);
  store.setDatabase(tree.id, {
    address,
    password: kept ?? (address === tree.address && wanted.keepPassword ? tree.password : null),
    label: wanted.label === '' ? null : wanted.label,
    unlocked: wanted.unlocked ? 1 : 0,
    part: null,
  });
  return store.tree(tree.id) ?? tree;
}

/** Looks at a file below the given folder from now on, instead of a database that is made. */
async function lookAtFile(
  store: Store,
  given: string | null,
  tree: StoredTree,
  file: string,
): Promise<StoredTree | { readonly problem: string }> {
  const looked = await lookedAt(given, file);
  if ('problem' in looked) return looked;
  store.setDatabase(tree.id, { address: null, password: null, label: null, unlocked: 0, part: null });
  store.setLookedAt(tree.id, looked.path);
  return store.tree(tree.id) ?? tree;
}

/** Agreeing to the SQL that a text states, and ending or beginning the making of its rows. */
function makingRoutes(store: Store, databases: Databases): Router {
  const router = Router();

  router.post('/trees/:id/sql', (request, response) => {
    const wanted = bodyOf(AgreeToSql, request, response);
    const tree = store.tree(request.params.id);
    if (wanted === null) return;
    const state = tree === null ? null : databases.stateOf(tree.id);
    if (tree === null || state?.status !== 'asks') {
      notFound(response, 'A question about SQL of this tree');
      return;
    }
    // A person agrees to what was shown, and to nothing that came in between.
    const shown = new Set(state.statements.map(({ digest }) => digest));
    const digests = wanted.digests.filter((digest) => shown.has(digest));
    store.agree(tree.id, [...digests, ...(wanted.powers ? digests.map(digestWithPowers) : [])]);
    databases.renew(tree);
    response.json(messageOf(tree));
  });

  router.delete('/trees/:id/database/making', async (request, response) => {
    await databases.stop(request.params.id);
    response.status(204).end();
  });

  router.post('/trees/:id/database/making', (request, response) => {
    const tree = store.tree(request.params.id);
    if (tree === null) {
      notFound(response, 'This tree');
      return;
    }
    databases.renew(tree);
    response.status(202).end();
  });

  return router;
}
