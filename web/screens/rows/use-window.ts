import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { shallowEqual, useStore } from 'react-redux';
import type { RowsAnswer } from '../../../contract/index.js';
import { api, failureMessage, type GridPage, type GridPageAsk, useGridPageQuery } from '../../app/api.js';
import { type State, useAppDispatch, useAppSelector } from '../../app/store.js';
import { KeptPages } from './kept-pages.js';
import type { RowsQuestion } from './place.js';

const PAGE = 100;
/** While a person scrolls on, pages that fly by are not fetched; in milliseconds. */
const CALM = 45;
const MOST_PAGES = 8;
const FIRST: readonly number[] = [0];

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

/**
 * The rows that are in view, page by page, with how many each of them knows; those seen lately are kept.
 *
 * @param key the column that tells the rows of the entity apart
 * @param roles the to-many roles that are counted
 */
export function useWindow(tree: string, asked: RowsQuestion, key: string, roles: readonly string[]): RowWindow {
  // Roles of the same names are the same, however often the text was read anew.
  const roleList = roles.join();
  const pageAsk = useCallback(
    (page: number): GridPageAsk => ({
      tree,
      ask: { ...asked, from: page * PAGE, count: PAGE },
      key,
      roles: roleList === '' ? [] : roleList.split(','),
    }),
    [tree, asked, key, roleList],
  );
  const [seen, see] = useSeen(asked);
  const first = useGridPageQuery(pageAsk(0));
  const pageAt = usePages(pageAsk, seen);
  const rowsAt = (index: number): readonly Row[] => {
    const answer = pageAt(Math.floor(index / PAGE))?.answer;
    return answer?.ok === true ? answer.rows : [];
  };
  return {
    first: first.data?.answer ?? null,
    failed: first.error === undefined ? null : failureMessage(first.error),
    loading: first.isFetching,
    row: (index) => rowsAt(index)[index % PAGE] ?? null,
    counts: (index) => pageAt(Math.floor(index / PAGE))?.counts?.[index % PAGE] ?? null,
    see,
  };
}

/** The pages in view, once the person stopped scrolling; the first one where other rows are asked for. */
function useSeen(asked: RowsQuestion): readonly [readonly number[], RowWindow['see']] {
  const [seen, setSeen] = useState({ asked, pages: FIRST });
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const see = useCallback(
    (from: number, to: number) => {
      clearTimeout(timer.current);
      timer.current = setTimeout(() => {
        const start = Math.floor(from / PAGE);
        const pages = Array.from({ length: Math.floor(to / PAGE) - start + 1 }, (_, index) => start + index);
        setSeen((before) => (before.asked === asked && shallowEqual(before.pages, pages) ? before : { asked, pages }));
      }, CALM);
    },
    [asked],
  );
  return [seen.asked === asked ? seen.pages : FIRST, see];
}

/** The pages in view, and those that were seen lately. */
function usePages(pageAsk: (page: number) => GridPageAsk, seen: readonly number[]): (page: number) => GridPage | null {
  const dispatch = useAppDispatch();
  const store = useStore<State>();
  // biome-ignore lint/correctness/useExhaustiveDependencies: other rows are other pages
  const kept = useMemo(() => new KeptPages<(state: State) => GridPage | null>(MOST_PAGES), [pageAsk]);
  const [, redraw] = useState(0);
  useEffect(() => () => kept.letGoOfAll(), [kept]);
  useEffect(() => {
    for (const page of seen)
      kept.hold(page, () => {
        const ask = pageAsk(page);
        const select = api.endpoints.gridPage.select(ask);
        const { unsubscribe } = dispatch(api.endpoints.gridPage.initiate(ask));
        return { select: (state) => select(state).data ?? null, letGo: unsubscribe };
      });
    redraw((count) => count + 1);
  }, [kept, seen, pageAsk, dispatch]);
  // Whatever comes for the pages in view draws the grid again.
  useAppSelector((state) => seen.map((page) => kept.select(page)?.(state) ?? null), shallowEqual);
  return (page) => kept.select(page)?.(store.getState()) ?? null;
}
