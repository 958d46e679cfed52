import { useState } from 'react';
import type { Finding } from '../../../core/notation/index.js';
import { useClick } from '../../app/use-click.js';
import { Button } from '../../parts/button.js';
import { Input } from '../../parts/input.js';

/** Asks why findings are meant so, and writes it into the text: they are told no more. */
export function MeanIt({ findings, onDone }: { readonly findings: readonly Pick<Finding, 'code' | 'span'>[]; onDone(): void }) {
  const click = useClick();
  const [why, setWhy] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const keep = async () => {
    const [first] = await click({ kind: 'mean', findings, why }, 'say that it is meant so');
    if (first === undefined) onDone();
    else setProblem(first);
  };
  return (
    <form
      aria-label="It is meant so"
      className="mt-2 border border-line bg-label px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (why.trim() !== '') void keep();
      }}
    >
      <label className="block text-small text-ink-2">
        Why? It is kept at the foot of the text as a line of its own, for whoever reads it next.
        <Input
          autoFocus
          value={why}
          maxLength={400}
          className="mt-1 block w-full"
          onChange={(event) => setWhy(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Escape') onDone();
          }}
        />
      </label>
      <div className="mt-2 flex gap-2">
        <Button strong type="submit" disabled={why.trim() === ''}>
          Say so in the text
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
      {problem !== null && (
        <p role="alert" className="mt-1 text-small text-harm">
          {problem}
        </p>
      )}
    </form>
  );
}
