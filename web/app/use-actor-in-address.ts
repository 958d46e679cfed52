import { useEffect, useLayoutEffect, useRef } from 'react';
import { useLocation, useNavigationType, useSearchParams } from 'react-router';
import { workedAs } from './actor.js';
import { useAppDispatch, useAppSelector } from './store.js';

/** The search parameter that says on whose behalf rows are read and written. */
const AS = 'as';

/**
 * Keeps whoever is at work in the address of every screen, so that it can be sent to somebody. The address with which a tree is
 * opened says who it is, and one that is gone back to; any other is told it.
 */
export function useActorInAddress(tree: string): void {
  const dispatch = useAppDispatch();
  const as = useAppSelector((state) => state.actor.as);
  const [search, setSearch] = useSearchParams();
  const { key } = useLocation();
  const type = useNavigationType();
  const there = search.get(AS) ?? '';
  const followed = useRef(key);
  // Before anything is asked of the tree's rows.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the address with which the tree was opened says it
  useLayoutEffect(() => {
    dispatch(workedAs(there));
  }, [tree]);
  useEffect(() => {
    const hasGoneBack = followed.current !== key && type === 'POP';
    followed.current = key;
    if (there === as) return;
    if (hasGoneBack) dispatch(workedAs(there));
    else
      setSearch(
        () => {
          // Somebody may have gone elsewhere in the same moment: what is known here is of where they were.
          const next = new URLSearchParams(window.location.search);
          if (as === '') next.delete(AS);
          else next.set(AS, as);
          return next;
        },
        { replace: true },
      );
  }, [key, type, there, as, dispatch, setSearch]);
}
