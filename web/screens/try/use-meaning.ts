import { useEffect, useState } from 'react';
import type { Finding } from '../../../core/notation/index.js';
import { askDesign } from '../../app/design-client.js';

/** How long after the last keystroke a query is looked at, in milliseconds. */
const CALM = 250;

/** What is wrong with a query's meaning, found a moment after the last keystroke; null until it is known. */
export function useMeaning(query: string, head: string, text: string | null): readonly Finding[] | null {
  const [known, setKnown] = useState<{ query: string; findings: readonly Finding[] } | null>(null);
  useEffect(() => {
    if (text === null || query.trim() === '') return;
    let current = true;
    const timer = setTimeout(() => {
      void askDesign('check query', { text, query, head }).then((findings) => {
        if (current) setKnown({ query, findings });
      });
    }, CALM);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [query, head, text]);
  return known?.query === query ? known.findings : null;
}
