import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react';
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
  SaveConflict,
  Saved,
  type SaveText,
  type ShelfTree,
  Surroundings,
  Tree,
  TreeList,
  type TryDatabase,
  type UseDatabase,
} from '../../contract/index.js';
import { fetchOrTake } from './ahead.js';
import { untilReachable } from './reachable.js';

const ask = fetchBaseQuery({ baseUrl: '/api/', fetchFn: (request) => fetchOrTake(new Request(request)) });

/** One call. Where it has no answer the server is waited for, and all that is in view is asked for again. */
const askServer: typeof ask = async (request, call, options) => {
  const answer = await ask(request, call, options);
  if (answer.error?.status === 'FETCH_ERROR' && !call.signal.aborted) void untilReachable();
  return answer;
};

/** Every call to the server; what comes back is parsed by the contract before anything sees it. */
export const api = createApi({
  reducerPath: 'api',
  baseQuery: askServer,
  refetchOnReconnect: true,
  tagTypes: ['Trees'],
  endpoints: (build) => ({
    trees: build.query<TreeList, void>({
      query: () => 'trees',
      transformResponse: (response: unknown) => v.parse(TreeList, response),
      providesTags: ['Trees'],
    }),
    setOnShelf: build.mutation<null, { tree: string; takenOff: boolean }>({
      query: ({ tree, takenOff }) => ({ url: `trees/${tree}`, method: 'PATCH', body: { takenOff } satisfies ShelfTree }),
      transformResponse: () => null,
      invalidatesTags: ['Trees'],
    }),
    tree: build.query<Tree, string>({
      query: (id) => `trees/${id}`,
      transformResponse: (response: unknown) => v.parse(Tree, response),
      keepUnusedDataFor: 0,
    }),
    addTree: build.mutation<Tree, NewTree>({
      query: (body) => ({ url: 'trees', method: 'POST', body }),
      transformResponse: (response: unknown) => v.parse(Tree, response),
      invalidatesTags: ['Trees'],
    }),
    tryDatabase: build.mutation<Surroundings, TryDatabase>({
      query: (body) => ({ url: 'database/try', method: 'POST', body }),
      transformResponse: (response: unknown) => v.parse(Surroundings, response),
    }),
    chooseDatabase: build.mutation<Tree, { tree: string; use: UseDatabase }>({
      query: ({ tree, use }) => ({ url: `trees/${tree}/database`, method: 'PUT', body: use }),
      transformResponse: (response: unknown) => v.parse(Tree, response),
    }),
    lockDatabase: build.mutation<Tree, { tree: string; unlocked: boolean }>({
      query: ({ tree, unlocked }) => ({ url: `trees/${tree}/database`, method: 'PATCH', body: { unlocked } }),
      transformResponse: (response: unknown) => v.parse(Tree, response),
    }),
    agreeToSql: build.mutation<Tree, { tree: string; agree: AgreeToSql }>({
      query: ({ tree, agree }) => ({ url: `trees/${tree}/sql`, method: 'POST', body: agree }),
      transformResponse: (response: unknown) => v.parse(Tree, response),
    }),
    arrival: build.query<Arrival, string>({
      query: (id) => `trees/${id}/arrival`,
      transformResponse: (response: unknown) => v.parse(Arrival, response),
      keepUnusedDataFor: 0,
    }),
    takeInAgain: build.mutation<Tree, { tree: string; pending: string; text: string; basedOn: number }>({
      query: ({ tree, pending, ...body }) => ({ url: `trees/${tree}/again/${pending}`, method: 'POST', body }),
      transformResponse: (response: unknown) => v.parse(Tree, response),
    }),
    openFile: build.mutation<Tree, string>({
      query: (path) => ({ url: 'files', method: 'POST', body: { path } }),
      transformResponse: (response: unknown) => v.parse(Tree, response),
      invalidatesTags: ['Trees'],
    }),
    revisions: build.query<Revisions, string>({
      query: (id) => `trees/${id}/revisions`,
      transformResponse: (response: unknown) => v.parse(Revisions, response),
      keepUnusedDataFor: 0,
    }),
    revision: build.query<Revision, { tree: string; number: number }>({
      query: ({ tree, number }) => `trees/${tree}/revisions/${number}`,
      transformResponse: (response: unknown) => v.parse(Revision, response),
    }),
    rows: build.query<RowsAnswer, { tree: string; revision: number; ask: RowsAsk }>({
      query: ({ tree, ask }) => ({ url: `trees/${tree}/rows`, method: 'POST', body: ask }),
      transformResponse: (response: unknown) => v.parse(RowsAnswer, response),
      keepUnusedDataFor: 20,
    }),
    entityCounts: build.query<EntityCounts, { tree: string; revision: number }>({
      query: ({ tree }) => `trees/${tree}/counts`,
      transformResponse: (response: unknown) => v.parse(EntityCounts, response),
    }),
    profile: build.query<Profile, { tree: string; revision: number; relation: string }>({
      query: ({ tree, relation }) => `trees/${tree}/relations/${encodeURIComponent(relation)}/rows`,
      transformResponse: (response: unknown) => v.parse(Profile, response),
    }),
    checkRows: build.query<RowsChecked, { tree: string; revision: number }>({
      query: ({ tree }) => `trees/${tree}/rows/findings`,
      transformResponse: (response: unknown) => v.parse(RowsChecked, response),
    }),
    compareKinds: build.query<KindsCompared, { tree: string; revision: number; entity: string }>({
      query: ({ tree, entity }) => `trees/${tree}/entities/${encodeURIComponent(entity)}/kinds`,
      transformResponse: (response: unknown) => v.parse(KindsCompared, response),
      keepUnusedDataFor: 300,
    }),
    choices: build.query<RowChoices, { tree: string; entity: string; revision: number }>({
      query: ({ tree, entity }) => `trees/${tree}/choices/${encodeURIComponent(entity)}`,
      transformResponse: (response: unknown) => v.parse(RowChoices, response),
    }),
    run: build.mutation<RunResult, { tree: string; run: Run }>({
      query: ({ tree, run }) => ({ url: `trees/${tree}/run`, method: 'POST', body: run }),
      transformResponse: (response: unknown) => v.parse(RunResult, response),
    }),
  }),
});

export const {
  useTreesQuery,
  useAgreeToSqlMutation,
  useCheckRowsQuery,
  useChooseDatabaseMutation,
  useCompareKindsQuery,
  useLockDatabaseMutation,
  useTreeQuery,
  useTryDatabaseMutation,
  useAddTreeMutation,
  useSetOnShelfMutation,
  useArrivalQuery,
  useTakeInAgainMutation,
  useOpenFileMutation,
  useRevisionsQuery,
  useRevisionQuery,
  useRowsQuery,
  useEntityCountsQuery,
  useProfileQuery,
  useChoicesQuery,
  useRunMutation,
} = api;

/** The text of a tree as the server has it now. */
export async function fetchTree(id: string): Promise<Tree | null> {
  try {
    const response = await fetch(`/api/trees/${id}`);
    return response.ok ? v.parse(Tree, await response.json()) : null;
  } catch {
    return null;
  }
}

/** What a person is told when a call fails. */
export function failureMessage(error: unknown): string {
  const data = typeof error === 'object' && error !== null && 'data' in error ? error.data : null;
  const parsed = v.safeParse(Failure, data);
  if (parsed.success) return parsed.output.message;
  return 'The server does not answer. What you typed is kept in this browser.';
}

export type SaveResult =
  | { readonly kind: 'saved'; readonly revision: number }
  | { readonly kind: 'conflict'; readonly conflict: SaveConflict }
  | { readonly kind: 'failed'; readonly message: string; readonly offline: boolean };

/** Saves a text as the next revision of the one that it is based on. */
export async function saveText(tree: string, body: SaveText): Promise<SaveResult> {
  let response: Response;
  try {
    response = await fetch(`/api/trees/${tree}/text`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
  } catch {
    return { kind: 'failed', offline: true, message: failureMessage(null) };
  }
  const answer: unknown = await response.json().catch(() => null);
  if (response.ok) return { kind: 'saved', revision: v.parse(Saved, answer).revision };
  if (response.status === 409) return { kind: 'conflict', conflict: v.parse(SaveConflict, answer) };
  return { kind: 'failed', offline: response.status >= 500, message: failureMessage({ data: answer }) };
}

/** Ends the making of a tree's rows; its state says so. */
export async function stopMaking(tree: string): Promise<void> {
  await fetch(`/api/trees/${tree}/database/making`, { method: 'DELETE' }).catch(() => untilReachable());
}

/** Makes the rows of a tree's text, where that was stopped before. */
export async function makeAgain(tree: string): Promise<void> {
  await fetch(`/api/trees/${tree}/database/making`, { method: 'POST' }).catch(() => untilReachable());
}

/** A window of rows, past the store: a grid keeps what it needs, and a million rows have no place there. */
export async function fetchRows(tree: string, ask: RowsAsk): Promise<RowsAnswer | null> {
  const answer = await post(`trees/${tree}/rows`, ask);
  return answer === null ? null : v.parse(RowsAnswer, answer);
}

/** How many rows each of these knows over each role. */
export async function fetchCounts(tree: string, ask: CountsAsk): Promise<Counts['counts'] | null> {
  const answer = await post(`trees/${tree}/counts`, ask);
  return answer === null ? null : v.parse(Counts, answer).counts;
}

/** Null where the server does not answer, or not well. */
async function post(path: string, body: unknown): Promise<unknown> {
  try {
    const init = { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) };
    const response = await fetch(`/api/${path}`, init);
    return response.ok ? ((await response.json()) as unknown) : null;
  } catch {
    return null;
  }
}
