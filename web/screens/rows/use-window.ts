import { useCallback, useEffect, useRef, useState } from 'react';
import type { RowsAnswer, RowsAsk } from '../../../contract/index.js';
import { failureMessage, fetchCounts, fetchRows } from '../../app/api.js';

export const PAGE = 100;
/** While a person scrolls on, pages that fly by are not fetched. */
const CALM = 45;
const MOST_PAGES = 60;

export type Row = Readonly<Record<string, unknown>>;

export interface RowWindow {
  readonly first: RowsAnswer | null;
  readonly failed: string | null;
  readonly loading: boolean;
  /** The row at an index; null while it is on its way. */
  row(index: number): Row | null;
  /** How many rows the row knows over each to-many role; null while that is counted. */
  counts(index: number): Readonly<Record<string, number>> | null;
  /** Says which rows are in view. */
  see(from: number, to: number): void;
}

interface Page {
  readonly rows: readonly Row[];
  readonly counts: readonly Readonly<Record<string, number>>[] | null;
}

/** The rows that are in view, fetched page by page; those seen lately are kept. */
export function useWindow(
  tree: string,
  revision: number,
  asked: Pick<RowsAsk, 'entity' | 'where' | 'orderBy' | 'via'>,
  key: string,
  roles: readonly string[],
): RowWindow {
  const [, redraw] = useState(0);
  const [first, setFirst] = useState<RowsAnswer | null>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const [loading, setLoading] = useState(true);
  const pages = useRef(new Map<number, Page>());
  const under = useRef(new Set<number>());
  const turn = useRef(0);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const roleList = roles.join();

  // biome-ignore lint/correctness/useExhaustiveDependencies: a new revision is looked at anew
  const fetchPage = useCallback(
    async (page: number) => {
      if (pages.current.has(page) || under.current.has(page)) return;
      under.current.add(page);
      const mine = turn.current;
      const outcome = await fetchRows(tree, { ...asked, from: page * PAGE, count: PAGE });
      if (mine !== turn.current) return;
      under.current.delete(page);
      if (page === 0) setLoading(false);
      if (outcome === null) {
        if (page === 0) setFailed(failureMessage(null));
        return;
      }
      if (page === 0) {
        setFirst(outcome);
        setFailed(null);
      }
      if (!outcome.ok) return;
      const { rows } = outcome;
      keep(pages.current, page, { rows, counts: null });
      redraw((count) => count + 1);
      if (roleList === '' || rows.length === 0) return;
      const keys = rows.map((row) => row[key]).filter((value) => typeof value === 'string' || typeof value === 'number');
      const byRole = await fetchCounts(tree, { entity: asked.entity, keys });
      if (mine !== turn.current || byRole === null) return;
      const counts = rows.map((row) =>
        Object.fromEntries(roleList.split(',').map((role) => [role, byRole[role]?.[String(row[key])] ?? 0])),
      );
      keep(pages.current, page, { rows, counts });
      redraw((count) => count + 1);
    },
    [tree, revision, asked, key, roleList],
  );

  useEffect(() => {
    turn.current += 1;
    pages.current = new Map();
    under.current = new Set();
    setLoading(true);
    void fetchPage(0);
  }, [fetchPage]);

  const see = useCallback(
    (from: number, to: number) => {
      clearTimeout(timer.current);
      timer.current = setTimeout(() => {
        for (let page = Math.floor(from / PAGE); page <= Math.floor(to / PAGE); page++) void fetchPage(page);
      }, CALM);
    },
    [fetchPage],
  );

  return {
    first,
    failed,
    loading,
    row: (index) => pages.current.get(Math.floor(index / PAGE))?.rows[index % PAGE] ?? null,
    counts: (index) => pages.current.get(Math.floor(index / PAGE))?.counts?.[index % PAGE] ?? null,
    see,
  };
}

function keep(pages: Map<number, Page>, number: number, page: Page): void {
  pages.delete(number);
  pages.set(number, page);
  const [oldest] = pages.keys();
  if (pages.size > MOST_PAGES && oldest !== undefined) pages.delete(oldest);
}
