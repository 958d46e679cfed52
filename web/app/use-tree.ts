import { useEffect, useRef } from 'react';
import * as v from 'valibot';
import { DatabaseState } from '../../contract/index.js';
import type { DesignView } from '../workers/design-view.js';
import { useTreeQuery } from './api.js';
import { draftOf } from './saving.js';
import { useAppDispatch, useAppSelector } from './store.js';
import { closed, databaseChanged, opened, viewMade } from './workspace.js';

/** Opens a tree: its text into the store, its view from the worker, its database's state from the server. */
export function useOpenTree(id: string): { error: unknown; loading: boolean } {
  const dispatch = useAppDispatch();
  const { data, error, isLoading } = useTreeQuery(id, { refetchOnMountOrArgChange: true });
  const open = useAppSelector((state) => state.workspace.tree?.id ?? null);
  const openedOnce = useRef<string | null>(null);
  useEffect(() => {
    if (data === undefined || data.id !== id || openedOnce.current === id) return;
    openedOnce.current = id;
    const draft = draftOf(id);
    dispatch(opened({ tree: data, draft: draft !== null && draft.text !== data.text ? draft : null }));
  }, [data, id, dispatch]);
  useEffect(
    () => () => {
      openedOnce.current = null;
      dispatch(closed());
    },
    [dispatch],
  );
  useDesignWorker(open === id);
  useDatabaseState(open === id ? id : null);
  return { error, loading: isLoading || open !== id };
}

function useDesignWorker(active: boolean): void {
  const dispatch = useAppDispatch();
  const text = useAppSelector((state) => state.workspace.text);
  const worker = useRef<Worker | null>(null);
  const waiting = useRef<string | null>(null);
  const busy = useRef(false);
  useEffect(() => {
    if (!active) return;
    const started = new Worker(new URL('../workers/design.worker.ts', import.meta.url), { type: 'module' });
    worker.current = started;
    started.onmessage = (event: MessageEvent<DesignView>) => {
      dispatch(viewMade(event.data));
      busy.current = waiting.current !== null;
      // While the worker was at it only the latest text counts.
      if (waiting.current !== null) started.postMessage(waiting.current);
      waiting.current = null;
    };
    return () => {
      started.terminate();
      worker.current = null;
      busy.current = false;
      waiting.current = null;
    };
  }, [active, dispatch]);
  useEffect(() => {
    if (!active || worker.current === null) return;
    if (busy.current) waiting.current = text;
    else {
      busy.current = true;
      worker.current.postMessage(text);
    }
  }, [active, text]);
}

function useDatabaseState(id: string | null): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (id === null) return;
    const source = new EventSource(`/api/trees/${id}/database`);
    source.onmessage = (event: MessageEvent<string>) => {
      const parsed = v.safeParse(DatabaseState, JSON.parse(event.data));
      if (parsed.success) dispatch(databaseChanged(parsed.output));
    };
    return () => source.close();
  }, [id, dispatch]);
}
