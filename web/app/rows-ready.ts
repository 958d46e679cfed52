import { useAppSelector } from './store.js';

/** Whether the open tree's database has the rows that its text asks for. */
export function useRowsReady(): boolean {
  return useAppSelector((state) => state.workspace.database?.status === 'ready');
}
