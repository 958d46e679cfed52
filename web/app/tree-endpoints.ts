import {
  Arrival,
  type NewTree,
  Revision,
  Revisions,
  Saved,
  type SaveText,
  type ShelfTree,
  Tree,
  TreeList,
} from '../../contract/index.js';
import type { Build } from './endpoints.js';

/** Calls about trees: the shelf, a text and its revisions, how a database came in. */
export const treeEndpoints = (build: Build) => ({
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
});
