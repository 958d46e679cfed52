import { useState } from 'react';
import type { Audit } from '../../../contract/index.js';
import { AUDIT_REASONS } from '../../../core/checks/index.js';
import { useAppSelector } from '../../app/store.js';
import { Button } from '../../parts/button.js';
import { Preview } from '../findings/preview.js';
import { TriedText } from './tried-text.js';

interface AuditHoleProps {
  readonly tree: string;
  readonly hole: Audit['state']['holes'][number];
  readonly isNew: boolean;
  readonly isOfText: boolean;
}

/** What walls leave open, or hardly mean: the row, a query that shows it, and the line that would close it. */
export function AuditHole({ tree, hole: { code, weight, message, as, text, fix, span }, isNew, isOfText }: AuditHoleProps) {
  const whole = useAppSelector((state) => state.workspace.text);
  const [shown, setShown] = useState(false);
  const line = whole.slice(0, span.start).split('\n').length;
  return (
    <li className="border border-line bg-label px-4 py-2">
      <p>
        <span className={`font-semibold ${weight === 'leak' ? 'text-harm' : 'text-kinds'}`}>
          {weight === 'leak' ? '✕ left open' : '△ doubtful'}
        </span>
        {isOfText && <span className="text-small text-ink-3"> line {line}</span>}
        {isNew && <span className="ml-2 text-small text-selected">new</span>}
      </p>
      <p className="mt-1 max-w-[90ch]">{message}</p>
      <p className="mt-1 max-w-[90ch] font-serif text-ink-2 italic">{AUDIT_REASONS[code]}</p>
      {text !== null && as !== null && <TriedText tree={tree} as={as} text={text} />}
      {fix !== null && isOfText && !shown && (
        <Button className="mt-2" onClick={() => setShown(true)}>
          {fix.title}…
        </Button>
      )}
      {fix !== null && isOfText && shown && (
        <Preview text={whole} title={fix.title} edits={fix.edits} left={0} onDone={() => setShown(false)} />
      )}
    </li>
  );
}
