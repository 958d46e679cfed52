import type { ThunkDispatch, UnknownAction } from '@reduxjs/toolkit';
import { createApi } from '@reduxjs/toolkit/query/react';
import * as v from 'valibot';
import {
  AuditStep,
  Audits,
  type BesideAsk,
  type CommandsAsk,
  CommandsDone,
  Counts,
  type CountsAsk,
  EntityCounts,
  ExpectationsHeld,
  Failure,
  ImpactTold,
  KindsCompared,
  LiveState,
  Profile,
  Reach,
  type ReadsAsk,
  ReadsChecked,
  RowChoices,
  RowsAnswer,
  type RowsAsk,
  RowsBeside,
  RowsChecked,
  type Run,
  RunResult,
  type WaysAsk,
  WaysMeasured,
  Why,
  type WhyAsk,
} from '../../contract/index.js';
import { askServer, type ServerCall } from './ask-server.js';
import { changesEndpoints } from './changes-endpoints.js';
import { databaseEndpoints } from './database-endpoints.js';
import { type Build, TAGS } from './endpoints.js';
import { treeEndpoints } from './tree-endpoints.js';

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

/** Rows to choose from, each with the entity that it is of. */
export interface RowsSought {
  readonly rows: readonly { readonly entity: string; readonly key: string; readonly shown: string }[];
  /** There are too many to list. */
  readonly more: boolean;
}

/** What a person is told where an answer is none that this page knows. */
const UNKNOWN_ANSWER =
  'The server answered with something that this page does not know. Load the page again: the program may be newer.';

/**
 * Every call to the server; what comes back is parsed by the contract before anything sees it.
 *
 * *Trees* is what the shelf lists, *Revisions* what was saved of a text, *Rows* whatever was read of a tree's rows, *Arrival* how its
 * database came in, *Changes* how its databases stand to the text. A tree's text itself belongs to the workspace.
 */
export const api = createApi({
  reducerPath: 'api',
  baseQuery: askServer,
  refetchOnReconnect: true,
  invalidationBehavior: 'immediately',
  catchSchemaFailure: () => ({ status: 'CUSTOM_ERROR' as const, error: UNKNOWN_ANSWER }),
  tagTypes: TAGS,
  endpoints: (build) => ({
    ...treeEndpoints(build),
    ...databaseEndpoints(build),
    ...changesEndpoints(build),
    ...rowEndpoints(build),
  }),
});

/** Calls that read rows. */
function rowEndpoints(build: Build) {
  return {
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
    expectations: build.query<ExpectationsHeld, { tree: string }>({
      query: ({ tree }) => ({ url: `trees/${tree}/expectations`, rowsOf: tree }),
      responseSchema: ExpectationsHeld,
      providesTags: rowsOfTree,
    }),
    /** Who sees what, whoever is at work. */
    reach: build.query<Reach, { tree: string }>({
      query: ({ tree }) => ({ url: `trees/${tree}/reach`, rowsOf: tree, bySystem: true }),
      responseSchema: Reach,
      providesTags: rowsOfTree,
    }),
    /** The last audit of the walls, and the one before it. */
    audits: build.query<Audits, { tree: string }>({
      query: ({ tree }) => ({ url: `trees/${tree}/audits` }),
      responseSchema: Audits,
    }),
    /** Works at an audit for a moment: at one that was begun, or at a new one. */
    workAtAudit: build.mutation<AuditStep, { tree: string; id: number | null }>({
      query: ({ tree, id }) => ({
        url: `trees/${tree}/audits${id === null ? '' : `/${id}`}`,
        method: 'POST',
        body: {},
      }),
      responseSchema: AuditStep,
    }),
    /** The rows of a grid as two have them; asked outside of all walls. */
    rowsBeside: build.query<RowsBeside, { tree: string; ask: BesideAsk }>({
      query: ({ tree, ask }) => ({ url: `trees/${tree}/rows/beside`, method: 'POST', body: ask, rowsOf: tree, bySystem: true }),
      responseSchema: RowsBeside,
      providesTags: rowsOfTree,
      keepUnusedDataFor: 0,
    }),
    /** Where the live endpoint is, and what came to it. */
    live: build.query<LiveState, { tree: string }>({
      query: ({ tree }) => ({ url: `trees/${tree}/live` }),
      responseSchema: LiveState,
      keepUnusedDataFor: 0,
    }),
    /** Why somebody reaches a row, or does not; asked outside of all walls. */
    why: build.query<Why, { tree: string; ask: WhyAsk }>({
      query: ({ tree, ask }) => ({ url: `trees/${tree}/why`, method: 'POST', body: ask, rowsOf: tree, bySystem: true }),
      responseSchema: Why,
      providesTags: rowsOfTree,
      keepUnusedDataFor: 0,
    }),
    compareKinds: build.query<KindsCompared, { tree: string; entity: string }>({
      query: ({ tree, entity }) => ({ url: `trees/${tree}/entities/${encodeURIComponent(entity)}/kinds`, rowsOf: tree }),
      responseSchema: KindsCompared,
      providesTags: rowsOfTree,
      keepUnusedDataFor: 300,
    }),
    choices: build.query<RowChoices, { tree: string; entity: string; sought?: string }>({
      query: ({ tree, entity, sought = '' }) => ({
        url: `trees/${tree}/choices/${encodeURIComponent(entity)}`,
        params: sought === '' ? {} : { sought },
        rowsOf: tree,
      }),
      responseSchema: RowChoices,
      providesTags: rowsOfTree,
    }),
    /** Rows of several entities that a text is sought in, those of each after the other. */
    rowsSought: build.query<RowsSought, { tree: string; entities: readonly string[]; sought: string; bySystem?: boolean }>({
      async queryFn({ tree, entities, sought, bySystem = false }, _api, _options, ask) {
        const rows: RowsSought['rows'][number][] = [];
        let more = false;
        for (const entity of entities) {
          const url = `trees/${tree}/choices/${encodeURIComponent(entity)}`;
          const { data, error } = await ask({ url, params: sought === '' ? {} : { sought }, rowsOf: tree, bySystem });
          if (error !== undefined) return { error };
          const found = v.parse(RowChoices, data);
          rows.push(...found.rows.map((row) => ({ entity, ...row })));
          more ||= found.more;
        }
        return { data: { rows, more } };
      },
      providesTags: rowsOfTree,
      keepUnusedDataFor: 20,
    }),
    impact: build.query<ImpactTold, { tree: string; rows: string }>({
      query: ({ tree, rows }) => ({ url: `trees/${tree}/impact`, method: 'POST', body: { rows }, rowsOf: tree }),
      responseSchema: ImpactTold,
      providesTags: rowsOfTree,
      keepUnusedDataFor: 0,
    }),
    checkReads: build.mutation<ReadsChecked, { tree: string; ask: ReadsAsk }>({
      query: ({ tree, ask }) => ({ url: `trees/${tree}/reads`, method: 'POST', body: ask, rowsOf: tree }),
      responseSchema: ReadsChecked,
    }),
    measureWays: build.mutation<WaysMeasured, { tree: string; ask: WaysAsk }>({
      query: ({ tree, ask }) => ({ url: `trees/${tree}/ways`, method: 'POST', body: ask, rowsOf: tree }),
      responseSchema: WaysMeasured,
    }),
    rehearse: build.mutation<CommandsDone, { tree: string; ask: CommandsAsk }>({
      query: ({ tree, ask }) => ({ url: `trees/${tree}/rehearse`, method: 'POST', body: ask, rowsOf: tree }),
      responseSchema: CommandsDone,
    }),
    /** Carries commands out to stay; that the rows are others then is heard from the database. */
    carryOut: build.mutation<CommandsDone, { tree: string; ask: CommandsAsk }>({
      // Never asked a second time by itself, as what reads rows is.
      query: ({ tree, ask }) => ({ url: `trees/${tree}/do`, method: 'POST', body: ask, writes: true }),
      responseSchema: CommandsDone,
    }),
    takeBack: build.mutation<null, { tree: string; commands: number }>({
      query: ({ tree, commands }) => ({ url: `trees/${tree}/written/${commands}`, method: 'DELETE' }),
    }),
    run: build.mutation<RunResult, { tree: string; run: Run }>({
      query: ({ tree, run }) => ({ url: `trees/${tree}/run`, method: 'POST', body: run, rowsOf: tree }),
      responseSchema: RunResult,
    }),
  };
}

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
  useLiveQuery,
  useRowsBesideQuery,
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
  useExpectationsQuery,
  useReachQuery,
  useAuditsQuery,
  useWhyQuery,
  useCompareKindsQuery,
  useChoicesQuery,
  useImpactQuery,
  useRowsSoughtQuery,
  useCheckReadsMutation,
  useMeasureWaysMutation,
  useRehearseMutation,
  useCarryOutMutation,
  useTakeBackMutation,
  useRunMutation,
  useDesignDatabasesQuery,
  useAddDatabaseMutation,
  useForgetDatabaseMutation,
  useKeepAnswersMutation,
  useStandsQuery,
  useDriftQuery,
  usePlanQuery,
} = api;

/** What a person is told when a call fails. */
export function failureMessage(error: unknown): string {
  if (typeof error !== 'object' || error === null) return NO_ANSWER;
  if ('status' in error && error.status === 'CUSTOM_ERROR' && 'error' in error) return String(error.error);
  const parsed = v.safeParse(Failure, 'data' in error ? error.data : null);
  return parsed.success ? parsed.output.message : NO_ANSWER;
}

const NO_ANSWER = 'The server does not answer. What you typed is kept in this browser.';
