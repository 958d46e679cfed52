import { type AgreeToSql, Surroundings, Tree, type TryDatabase, type UseDatabase } from '../../contract/index.js';
import type { Build } from './endpoints.js';

/** Calls about the database of a tree: which it is, and the making of its rows. */
export const databaseEndpoints = (build: Build) => ({
  tryDatabase: build.mutation<Surroundings, TryDatabase>({
    query: (body) => ({ url: 'database/try', method: 'POST', body }),
    responseSchema: Surroundings,
  }),
  chooseDatabase: build.mutation<Tree, { tree: string; use: UseDatabase }>({
    query: ({ tree, use }) => ({ url: `trees/${tree}/database`, method: 'PUT', body: use }),
    responseSchema: Tree,
  }),
  lockDatabase: build.mutation<Tree, { tree: string; unlocked: boolean }>({
    query: ({ tree, unlocked }) => ({ url: `trees/${tree}/database`, method: 'PATCH', body: { unlocked } }),
    responseSchema: Tree,
  }),
  agreeToSql: build.mutation<Tree, { tree: string; agree: AgreeToSql }>({
    query: ({ tree, agree }) => ({ url: `trees/${tree}/sql`, method: 'POST', body: agree }),
    responseSchema: Tree,
  }),
  /** Ends the making of a tree's rows; its state says so. */
  stopMaking: build.mutation<unknown, string>({
    query: (id) => ({ url: `trees/${id}/database/making`, method: 'DELETE' }),
  }),
  /** Makes the rows of a tree's text, where that was stopped before. */
  makeAgain: build.mutation<unknown, string>({
    query: (id) => ({ url: `trees/${id}/database/making`, method: 'POST' }),
  }),
});
