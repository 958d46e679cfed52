import { useCallback, useMemo } from 'react';
import { useLocation, useNavigate, useParams, useSearchParams } from 'react-router';
import type { RowsAsk } from '../../../contract/index.js';
import { rowLink, rowsLink } from '../../app/links.js';

/** A place that was walked through, to go back to. */
export interface Step {
  readonly label: string;
  readonly to: string;
}

/** Which rows of an entity, in what order, walked to from where. */
export type RowsQuestion = Pick<RowsAsk, 'entity' | 'where' | 'orderBy' | 'via'>;

/** Which rows are looked at: all of it is in the address. */
export function useAsked(entity: string): {
  asked: RowsQuestion;
  say(change: Partial<Pick<RowsQuestion, 'where' | 'orderBy'>>): void;
  leaveVia(): void;
} {
  const [search, setSearch] = useSearchParams();
  const written = search.toString();
  const asked = useMemo((): RowsQuestion => {
    const params = new URLSearchParams(written);
    const via = /^(\w+)\((.*)\)\.(\w+)$/s.exec(params.get('via') ?? '');
    return {
      entity,
      where: params.get('where') ?? '',
      orderBy: params.get('order') ?? '',
      via: via === null ? null : { entity: via[1] ?? '', key: via[2] ?? '', role: via[3] ?? '' },
    };
  }, [entity, written]);
  const put = useCallback(
    (changes: Readonly<Record<string, string>>) =>
      setSearch(
        (before) => {
          const params = new URLSearchParams(before);
          for (const [name, value] of Object.entries(changes)) {
            if (value === '') params.delete(name);
            else params.set(name, value);
          }
          return params;
        },
        { replace: true },
      ),
    [setSearch],
  );
  const say = useCallback(
    ({ where, orderBy }: Partial<Pick<RowsQuestion, 'where' | 'orderBy'>>) =>
      put({ ...(where === undefined ? {} : { where }), ...(orderBy === undefined ? {} : { order: orderBy }) }),
    [put],
  );
  return { asked, say, leaveVia: useCallback(() => put({ via: '' }), [put]) };
}

/** Walking from row to row, with a trail of the places before. */
export function useWalk(): {
  trail: readonly Step[];
  toRow(entity: string, key: unknown, from: string): void;
  toRows(owner: string, key: unknown, role: string, target: string, from: string): void;
  back(index: number): void;
} {
  const { tree = '' } = useParams();
  const navigate = useNavigate();
  const { pathname, search, state } = useLocation();
  const trail = trailOf(state);
  const walk = (to: string, from: string) => {
    const step = { label: from, to: `${pathname}${search}` };
    void navigate(to, { state: { trail: [...trail, step].slice(-12) } });
  };
  return {
    trail,
    toRow: (entity, key, from) => walk(rowLink(tree, entity, key), from),
    toRows: (owner, key, role, target, from) =>
      walk(`${rowsLink(tree, target)}?${new URLSearchParams({ via: `${owner}(${String(key)}).${role}` }).toString()}`, from),
    back: (index) => {
      const step = trail[index];
      if (step !== undefined) void navigate(step.to, { state: { trail: trail.slice(0, index) } });
    },
  };
}

function trailOf(state: unknown): readonly Step[] {
  if (typeof state !== 'object' || state === null || !('trail' in state) || !Array.isArray(state.trail)) return [];
  return (state.trail as unknown[]).filter(
    (step): step is Step => typeof step === 'object' && step !== null && 'label' in step && 'to' in step,
  );
}
