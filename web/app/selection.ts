import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

export interface Selection {
  readonly kind: 'entity' | 'relation';
  readonly name: string;
}

/** What is selected, kept in the address so that it can be sent to a colleague. */
export function useSelection(): [Selection | null, (selection: Selection | null) => void] {
  const [search, setSearch] = useSearchParams();
  const written = search.get('select') ?? '';
  const [kind, ...rest] = written.split(':');
  const name = rest.join(':');
  const selection = (kind === 'entity' || kind === 'relation') && name !== '' ? ({ kind, name } as const) : null;
  const select = useCallback(
    (next: Selection | null) =>
      setSearch(
        (before) => {
          const params = new URLSearchParams(before);
          if (next === null) params.delete('select');
          else params.set('select', `${next.kind}:${next.name}`);
          if (params.get('select') === before.get('select')) return params;
          // A panel is open on what was selected, and so is what was opened of its kin.
          params.delete('panel');
          if (next?.kind !== 'relation') for (const name of ['open', 'all']) params.delete(name);
          if (params.get('sheet') === 'whole') params.delete('sheet');
          return params;
        },
        { replace: true },
      ),
    [setSearch],
  );
  return [selection, select];
}
