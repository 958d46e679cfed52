import { deleteGraph } from '../core/cascades/index.js';
import type { Design } from '../core/design/index.js';
import type { TakenBack, Undo } from '../core/write/index.js';
import type { Engine } from '../engines/index.js';

/**
 * Puts rows of a database back as they were before commands touched them: all of them, or where others have changed some since, none.
 *
 * @param schemas the schemas of the database that are the tree's; null for the one that is used anyway
 */
export async function takeBackCommands(
  design: Design,
  engine: Engine,
  undo: Undo,
  schemas: readonly string[] | null,
): Promise<TakenBack> {
  const looked = await engine.introspect(schemas);
  if (!looked.ok) return { ok: false, problem: looked.problem.message };
  const graph = deleteGraph(design.model, design.dialect, looked.value.schema);
  const done = await engine.takeBack({ undo, graph }, { patient: true });
  return done.ok ? done.value : { ok: false, problem: done.problem.message };
}
