import { useEffect, useRef } from 'react';
import * as v from 'valibot';
import { spokenBy, Tree, TreeEvent } from '../../contract/index.js';
import { addressed } from './addressed.js';
import { toldWithPage } from './ahead.js';
import { api, useTreeQuery } from './api.js';
import { latestOnly, toldAhead } from './design-client.js';
import { keepHistory, keptHistory } from './kept-history.js';
import { draftOf } from './saving.js';
import { store, useAppDispatch, useAppSelector } from './store.js';
import { closed, databaseChanged, fileChanged, opened, revisionHeard, theirsCame, viewMade } from './workspace.js';

/** Opens a tree in the workspace, with what of it was never saved and what can be taken back. */
function openTree(tree: Tree): void {
  const draft = draftOf(tree.id);
  const unsaved = draft !== null && draft.text !== tree.text ? draft : null;
  store.dispatch(opened({ tree, draft: unsaved, kept: keptHistory(tree.id) }));
}

/**
 * Opens the tree of an address, where the page was told what it is opened with: it is there at the first drawing.
 * @returns whether it was told
 */
export function openTold(path: string): boolean {
  const told = v.safeParse(Tree, toldWithPage(`/api/trees/${addressed(path)?.tree}`));
  if (!told.success) return false;
  const view = toldAhead('view', { text: told.output.text, dialect: spokenBy(told.output) });
  if (view === undefined) return false;
  openTree(told.output);
  if (store.getState().workspace.text === view.text) store.dispatch(viewMade(view));
  return true;
}

/** Opens a tree: its text into the store, its view from the worker, what happens to it from the server. */
export function useOpenTree(id: string): { error: unknown; loading: boolean } {
  const dispatch = useAppDispatch();
  const { data, error } = useTreeQuery(id, { refetchOnMountOrArgChange: true });
  const open = useAppSelector((state) => state.workspace.tree?.id ?? null);
  const openedOnce = useRef<string | null>(open);
  useEffect(() => {
    if (data === undefined || data.id !== id || openedOnce.current === id) return;
    openedOnce.current = id;
    openTree(data);
  }, [data, id]);
  useEffect(
    () => () => {
      openedOnce.current = null;
      keepOpenHistory();
      dispatch(closed());
    },
    [dispatch],
  );
  useEffect(() => {
    window.addEventListener('pagehide', keepOpenHistory);
    return () => window.removeEventListener('pagehide', keepOpenHistory);
  }, []);
  useDesignView(open === id);
  useTreeEvents(open === id ? id : null);
  useTheirText(open === id ? id : null);
  // A tree that is open stays open, whatever becomes of asking for it again.
  return { error: open === id ? undefined : error, loading: open !== id };
}

function keepOpenHistory(): void {
  const { tree, text, history } = store.getState().workspace;
  if (tree !== null) keepHistory(tree.id, { text, history });
}

function useDesignView(active: boolean): void {
  const dispatch = useAppDispatch();
  const text = useAppSelector((state) => state.workspace.text);
  const dialect = useAppSelector(({ workspace: { tree } }) => (tree === null ? null : spokenBy(tree)));
  const ask = useRef<ReturnType<typeof latestOnly<'view'>> | null>(null);
  ask.current ??= latestOnly('view', (view) => {
    // A tree that was closed meanwhile has no view.
    if (store.getState().workspace.tree !== null) dispatch(viewMade(view));
  });
  useEffect(() => {
    if (active) ask.current?.({ text, dialect });
  }, [active, text, dialect]);
}

function useTreeEvents(id: string | null): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (id === null) return;
    const source = new EventSource(`/api/trees/${id}/events`);
    source.onmessage = (event: MessageEvent<string>) => {
      const parsed = v.safeParse(TreeEvent, JSON.parse(event.data));
      if (!parsed.success) return;
      switch (parsed.output.kind) {
        case 'database':
          dispatch(databaseChanged(parsed.output.state));
          break;
        case 'text':
          dispatch(revisionHeard(parsed.output.revision));
          break;
        case 'file':
          dispatch(fileChanged(parsed.output.state));
          break;
      }
    };
    return () => source.close();
  }, [id, dispatch]);
}

/** Fetches the text of others once it is plain that a revision is not one's own: no save is under way, and it is newer. */
function useTheirText(id: string | null): void {
  const dispatch = useAppDispatch();
  const behind = useAppSelector(({ workspace }) => workspace.heard > workspace.revision && workspace.saving.kind !== 'saving');
  const conflict = useAppSelector(({ workspace }) => workspace.saving.kind === 'conflict');
  const heard = useAppSelector(({ workspace }) => workspace.heard);
  useEffect(() => {
    if (id === null || !behind || conflict || heard === 0) return;
    let current = true;
    const asked = dispatch(api.endpoints.tree.initiate(id, { subscribe: false, forceRefetch: true }));
    void asked.then(({ data: tree }) => {
      const { workspace } = store.getState();
      if (!current || tree === undefined || workspace.tree?.id !== id) return;
      if (workspace.saving.kind === 'saving' || tree.revision <= workspace.revision) return;
      dispatch(theirsCame({ message: 'Somebody changed the same lines.', revision: tree.revision, text: tree.text }));
    });
    return () => {
      current = false;
    };
  }, [id, behind, conflict, heard, dispatch]);
}
