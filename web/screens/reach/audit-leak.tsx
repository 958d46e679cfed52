import type { Audit } from '../../../contract/index.js';
import { TriedText } from './tried-text.js';

interface AuditLeakProps {
  readonly tree: string;
  readonly leak: Audit['state']['leaks'][number];
  readonly isNew: boolean;
}

/** A way that went round a wall which the text states: a fault of this program, with all that it takes to see it. */
export function AuditLeak({ tree, leak: { way, as, entity, text, told, statement }, isNew }: AuditLeakProps) {
  return (
    <li className="border border-line bg-label px-4 py-2">
      <p>
        <span className="font-semibold text-harm">✕ went round a wall</span>{' '}
        <span className="text-small text-ink-2">
          {way}, to {entity}
        </span>
        {isNew && <span className="ml-2 text-small text-selected">new</span>}
      </p>
      <TriedText tree={tree} as={as} text={text} />
      <p className="mt-1 max-w-[90ch] break-words">{told}</p>
      <p className="mt-1 text-small text-ink-2">
        The text states the wall, and this way does not hold it: it is a fault of this program, and no line of yours closes it.
      </p>
      {statement !== '' && <pre className="mt-2 overflow-auto bg-sheet px-3 py-2 font-mono text-small">{statement}</pre>}
    </li>
  );
}
