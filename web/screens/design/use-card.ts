import { useEffect, useRef, useState } from 'react';
import type { Card } from '../../../core/cards/index.js';
import { latestOnly } from '../../app/design-client.js';
import type { Selection } from '../../app/selection.js';
import { useAppSelector } from '../../app/store.js';

/**
 * The card of what is selected, made in the worker anew for each reading of the text. *asked*: it is under way for another
 * selection than the last; null where the model has nothing of that name, or nothing is selected.
 */
export function useCard(selection: Selection | null): Card | 'asked' | null {
  const view = useAppSelector((state) => state.workspace.view);
  const [card, setCard] = useState<Card | null>(null);
  const [known, setKnown] = useState('');
  const ask = useRef<ReturnType<typeof latestOnly<'card'>> | null>(null);
  const { kind = null, name = '' } = selection ?? {};
  const wanted = kind === null ? '' : `${kind} ${name}`;
  const latest = useRef(wanted);
  latest.current = wanted;
  ask.current ??= latestOnly('card', (answer) => {
    setCard(answer);
    setKnown(latest.current);
  });
  useEffect(() => {
    if (view !== null && kind !== null) ask.current?.({ text: view.text, kind, name });
  }, [view, kind, name]);
  if (kind === null) return null;
  // While the text is typed the card that is there stays; one of another name is not shown under this one.
  if (card !== null && card.kind === kind && card.name === name) return card;
  return known === wanted ? null : 'asked';
}
