import type { ThunkDispatch, UnknownAction } from '@reduxjs/toolkit';
import { createApi } from '@reduxjs/toolkit/query/react';
import * as v from 'valibot';
import {
  type AgreeToSql,
  Arrival,
  Counts,
  type CountsAsk,
  EntityCounts,
  Failure,
  KindsCompared,
  type NewTree,
  Profile,
  Revision,
  Revisions,
  RowChoices,
  RowsAnswer,
  type RowsAsk,
  RowsChecked,
  type Run,
  RunResult,
  Saved,
  type SaveText,
  type ShelfTree,
  Surroundings,
  Tree,
  TreeList,
  type TryDatabase,
  type UseDatabase,
} from '../../contract/index.js';
import { askServer, type ServerCall } from './ask-server.js';

/** Carries out calls to the server. */
export type Caller = ThunkDispatch<unknown, unknown, UnknownAction>;

/** A page of the grid, and how its rows are counted: over which roles, told apart by which column. */
export interface GridPageAsk {
  readonly tree: string;
  readonly ask: RowsAsk;
  readonly key: string;
  readonly roles: readonly string[];
}

export interface GridPage {
  readonly answer: RowsAnswer;
  /** For each row, how many it knows over each role; null while that is counted. */
  readonly counts: readonly Readonly<Record<string, number>>[] | null;
}

/** What a person is told where an answer is none that this page knows. */
const UNKNOWN_ANSWER =
  'The server answered with something that this page does not know. Load the page again: the program may be newer.';

/**
 * Every call to the server; what comes back is parsed by the contract before anything sees it.
 *
 * *Trees* is what the shelf lists, *Revisions* what was saved of a text, *Rows* whatever was read of a tree's rows, *Arrival* how its
 * database came in. A tree's text itself belongs to the workspace.
 */
export const api = createApi({
  reducerPath: 'api',
  baseQuery: askServer,
  refetchOnReconnect: true,
  invalidationBehavior: 'immediately',
  catchSchemaFailure: () => ({ status: 'CUSTOM_ERROR' as const, error: UNKNOWN_ANSWER }),
  tagTypes: ['Trees', 'Revisions', 'Rows', 'Arrival'],
  endpoints: (build) => ({
    trees: build.query<TreeList, void>({ query: () => 'trees', responseSchema: TreeList, providesTags: ['Trees'] }),
    setOnShelf: build.mutation<unknown, { tree: string; takenOff: boolean }>({
      query: ({ tree, takenOff }) => ({ url: `trees/${tree}`, method: 'PATCH', body: { takenOff } satisfies ShelfTree }),
      invalidatesTags: ['Trees'],
    }),
    tree: build.query<Tree, string>({ query: (id) => `trees/${id}`, responseSchema: Tree, keepUnusedDataFor: 0 }),
    addTree: build.mutation<Tree, NewTree>({
      query: (body) => ({ url: 'trees', method: 'POST', body }),
      responseSchema: Tree,
      invalidatesTags: ['Trees'],
    }),
    openFile: build.mutation<Tree, string>({
      query: (path) => ({ url: 'files', method: 'POST', body: { path } }),
      responseSchema: Tree,
      invalidatesTags: ['Trees'],
    }),
    saveText: build.mutation<Saved, { tree: string; save: SaveText }>({
      query: ({ tree, save }) => ({ url: `trees/${tree}/text`, method: 'PUT', body: save }),
      responseSchema: Saved,
      invalidatesTags: (saved, _error, { tree }) => (saved === undefined ? [] : ['Trees', { type: 'Revisions', id: tree }]),
    }),
    revisions: build.query<Revisions, string>({
      query: (id) => `trees/${id}/revisions`,
      responseSchema: Revisions,
      providesTags: (_answer, _error, id) => [{ type: 'Revisions', id }],
    }),
    revision: build.query<Revision, { tree: string; number: number }>({
      query: ({ tree, number }) => `trees/${tree}/revisions/${number}`,
      responseSchema: Revision,
    }),

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

    arrival: build.query<Arrival, string>({
      query: (id) => `trees/${id}/arrival`,
      responseSchema: Arrival,
      providesTags: (_answer, _error, id) => [{ type: 'Arrival', id }],
    }),
    takeInAgain: build.mutation<Tree, { tree: string; pending: string; text: string; basedOn: number }>({
      query: ({ tree, pending, ...body }) => ({ url: `trees/${tree}/again/${pending}`, method: 'POST', body }),
      responseSchema: Tree,
      invalidatesTags: (_answer, _error, { tree }) => ['Trees', { type: 'Revisions', id: tree }, { type: 'Arrival', id: tree }],
    }),

    rows: build.query<RowsAnswer, { tree: string; ask: RowsAsk }>({
      query: rowsCall,
      responseSchema: RowsAnswer,
      providesTags: rowsOfTree,
      keepUnusedDataFor: 20,
    }),
    /** A page of the grid, which holds as many of them as it wants: none outlives that. The counts follow the rows. */
    gridPage: build.query<GridPage, GridPageAsk, RowsAnswer>({
      query: rowsCall,
      rawResponseSchema: RowsAnswer,
      transformResponse: (answer) => ({ answer, counts: null }),
      providesTags: rowsOfTree,
      keepUnusedDataFor: 0,
      async onQueryStarted({ tree, ask, key, roles }, { dispatch, queryFulfilled, updateCachedData, getCacheEntry, requestId }) {
        const answer = await queryFulfilled.then(
          ({ data }) => data.answer,
          () => null,
        );
        if (answer?.ok !== true || answer.rows.length === 0 || roles.length === 0) return;
        const keys = answer.rows.map((row) => row[key]).filter((value) => typeof value === 'string' || typeof value === 'number');
        const counted = await dispatch(countRows(tree, { entity: ask.entity, keys }));
        if (counted === null || getCacheEntry().requestId !== requestId) return;
        const countsOf = (row: Readonly<Record<string, unknown>>) =>
          Object.fromEntries(roles.map((role) => [role, counted[role]?.[String(row[key])] ?? 0]));
        updateCachedData((page) => ({ ...page, counts: answer.rows.map(countsOf) }));
      },
    }),
    counts: build.query<Counts, { tree: string; ask: CountsAsk }>({
      query: ({ tree, ask }) => ({ url: `trees/${tree}/counts`, method: 'POST', body: ask, rowsOf: tree }),
      responseSchema: Counts,
      keepUnusedDataFor: 0,
    }),
    entityCounts: build.query<EntityCounts, { tree: string }>({
      query: ({ tree }) => ({ url: `trees/${tree}/counts`, rowsOf: tree }),
      responseSchema: EntityCounts,
      providesTags: rowsOfTree,
    }),
    profile: build.query<Profile, { tree: string; relation: string }>({
      query: ({ tree, relation }) => ({ url: `trees/${tree}/relations/${encodeURIComponent(relation)}/rows`, rowsOf: tree }),
      responseSchema: Profile,
      providesTags: rowsOfTree,
    }),
    checkRows: build.query<RowsChecked, { tree: string }>({
      query: ({ tree }) => ({ url: `trees/${tree}/rows/findings`, rowsOf: tree }),
      responseSchema: RowsChecked,
      providesTags: rowsOfTree,
    }),
    compareKinds: build.query<KindsCompared, { tree: string; entity: string }>({
      query: ({ tree, entity }) => ({ url: `trees/${tree}/entities/${encodeURIComponent(entity)}/kinds`, rowsOf: tree }),
      responseSchema: KindsCompared,
      providesTags: rowsOfTree,
      keepUnusedDataFor: 300,
    }),
    choices: build.query<RowChoices, { tree: string; entity: string }>({
      query: ({ tree, entity }) => ({ url: `trees/${tree}/choices/${encodeURIComponent(entity)}`, rowsOf: tree }),
      responseSchema: RowChoices,
      providesTags: rowsOfTree,
    }),
    run: build.mutation<RunResult, { tree: string; run: Run }>({
      query: ({ tree, run }) => ({ url: `trees/${tree}/run`, method: 'POST', body: run, rowsOf: tree }),
      responseSchema: RunResult,
    }),
  }),
});

/** How many rows each of these knows over each role; null where that cannot be told. */
function countRows(tree: string, ask: CountsAsk): (dispatch: Caller) => Promise<Counts['counts'] | null> {
  return async (dispatch) => {
    const { data } = await dispatch(api.endpoints.counts.initiate({ tree, ask }, { subscribe: false, forceRefetch: true }));
    return data?.counts ?? null;
  };
}

function rowsCall({ tree, ask }: { readonly tree: string; readonly ask: RowsAsk }): ServerCall {
  return { url: `trees/${tree}/rows`, method: 'POST', body: ask, rowsOf: tree };
}

function rowsOfTree(_answer: unknown, _error: unknown, { tree }: { readonly tree: string }) {
  return [{ type: 'Rows' as const, id: tree }];
}

export const {
  useTreesQuery,
  useSetOnShelfMutation,
  useTreeQuery,
  useAddTreeMutation,
  useOpenFileMutation,
  useRevisionsQuery,
  useRevisionQuery,
  useTryDatabaseMutation,
  useChooseDatabaseMutation,
  useLockDatabaseMutation,
  useAgreeToSqlMutation,
  useStopMakingMutation,
  useMakeAgainMutation,
  useArrivalQuery,
  useTakeInAgainMutation,
  useRowsQuery,
  useGridPageQuery,
  useEntityCountsQuery,
  useProfileQuery,
  useCheckRowsQuery,
  useCompareKindsQuery,
  useChoicesQuery,
  useRunMutation,
} = api;

/** What a person is told when a call fails. */
export function failureMessage(error: unknown): string {
  if (typeof error !== 'object' || error === null) return NO_ANSWER;
  if ('status' in error && error.status === 'CUSTOM_ERROR' && 'error' in error) return String(error.error);
  const parsed = v.safeParse(Failure, 'data' in error ? error.data : null);
  return parsed.success ? parsed.output.message : NO_ANSWER;
}

const NO_ANSWER = 'The server does not answer. What you typed is kept in this browser.';
