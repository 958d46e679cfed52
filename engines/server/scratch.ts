import type { Design } from '../../core/design/index.js';
import type { Engine, Outcome } from '../engine.js';

/** A database of this program's own, to make a tree's tables in. */
export interface Scratch {
  readonly engine: Engine;
  /** Closes it, and takes it away. */
  remove(): Promise<void>;
}

/** The prefix of every scratch database of this program on a server. */
export const SCRATCH_PREFIX = 'family_tree_';

/** The name of a scratch database. */
export interface ScratchName {
  /** What those of one tree begin with. */
  readonly stem: string;
  readonly name: string;
  /** None of this stem is in use: what earlier runs left is taken away. */
  readonly first: boolean;
  /** What is to be made in it: nothing of that may stand, or reach, outside. */
  readonly design?: Design;
  /**
   * Compares texts as the database of the address does by default, where that is there: a plan for that database is made from what
   * its tables read as here.
   */
  readonly likeInUse?: boolean;
}

/** The tables of a text that say in which schema they stand. */
export function placedTables({ schema }: Design): string[] {
  return schema.tables.flatMap(({ name }) => (name.schema === null ? [] : [`${name.schema}.${name.name}`]));
}

/** A scratch database that a statement over another connection takes away. */
export function removable(engine: Engine, admin: Engine, removal: string): Scratch {
  return {
    engine,
    remove: async () => {
      await engine.close();
      await admin.execute([removal]);
      await admin.close();
    },
  };
}

/** Closes an engine, and passes on what it could not do. */
export async function closing<T extends Outcome<unknown>>(engine: Engine, outcome: Outcome<unknown>): Promise<T> {
  await engine.close();
  return outcome as T;
}
