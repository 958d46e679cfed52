import {
  ChangesPlanned,
  DatabaseStands,
  DesignDatabase,
  DesignDatabases,
  DriftEdits,
  type KeepAnswers,
  type NewDesignDatabase,
  type PlanGoal,
} from '../../contract/index.js';
import type { Build } from './endpoints.js';

/** What a plan is made for. The revision and the answers tell plans apart; the server has both. */
export interface PlanOf {
  readonly tree: string;
  readonly database: string;
  readonly goal: PlanGoal;
  readonly revision: number;
  readonly answers: string;
  /** Digests of the SQL that the person has agreed to just now. */
  readonly agreed: readonly string[];
  /** Whether they have agreed as well that a login runs it that could do more than its database holds. */
  readonly powers: boolean;
}

/** Calls about the databases of a design, and what would become otherwise in them. */
export const changesEndpoints = (build: Build) => ({
  designDatabases: build.query<DesignDatabases, string>({
    query: (tree) => `trees/${tree}/databases`,
    responseSchema: DesignDatabases,
    providesTags: (_answer, _error, tree) => [{ type: 'Changes', id: tree }],
  }),
  addDatabase: build.mutation<DesignDatabase, { tree: string; wanted: NewDesignDatabase }>({
    query: ({ tree, wanted }) => ({ url: `trees/${tree}/databases`, method: 'POST', body: wanted }),
    responseSchema: DesignDatabase,
    invalidatesTags: (_answer, _error, { tree }) => [{ type: 'Changes', id: tree }],
  }),
  forgetDatabase: build.mutation<unknown, { tree: string; database: string }>({
    query: ({ tree, database }) => ({ url: `trees/${tree}/databases/${encodeURIComponent(database)}`, method: 'DELETE' }),
    invalidatesTags: (_answer, _error, { tree }) => [{ type: 'Changes', id: tree }],
  }),
  keepAnswers: build.mutation<unknown, { tree: string } & KeepAnswers>({
    query: ({ tree, ...body }) => ({ url: `trees/${tree}/answers`, method: 'PUT', body }),
    // Also where another window was first: then what that one said is shown.
    invalidatesTags: (_answer, _error, { tree }) => [{ type: 'Changes', id: tree }],
  }),
  stands: build.query<DatabaseStands, { tree: string; database: string; revision: number }>({
    query: ({ tree, database }) => `trees/${tree}/databases/${encodeURIComponent(database)}`,
    responseSchema: DatabaseStands,
    providesTags: (_answer, _error, { tree }) => [{ type: 'Changes', id: tree }],
    keepUnusedDataFor: 5,
  }),
  drift: build.query<DriftEdits, { tree: string; database: string; revision: number }>({
    query: ({ tree, database }) => `trees/${tree}/databases/${encodeURIComponent(database)}/drift`,
    responseSchema: DriftEdits,
    keepUnusedDataFor: 0,
  }),
  plan: build.query<ChangesPlanned, PlanOf>({
    query: ({ tree, database, goal, agreed, powers }) => ({
      url: `trees/${tree}/databases/${encodeURIComponent(database)}/plan`,
      method: 'POST',
      body: { goal, agreed, powers },
    }),
    responseSchema: ChangesPlanned,
    keepUnusedDataFor: 60,
  }),
});
