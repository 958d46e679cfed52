import { Button } from '../../parts/button.js';
import { Keep } from './keep.js';
import { Parameters } from './parameters.js';
import type { Draft } from './use-draft.js';

interface QuerySettingsProps {
  readonly tree: string;
  readonly draft: Draft;
  readonly running: boolean;
  /** The text is not on the server yet. */
  readonly unsaved: boolean;
  onRun(): void;
  onStop(): void;
  onKept(name: string): void;
}

/** What a query is run with, the run itself, and how it is kept in the text. */
export function QuerySettings({ tree, draft, running, unsaved, onRun, onStop, onKept }: QuerySettingsProps) {
  return (
    <div className="overflow-auto border-l border-line p-4">
      <Parameters
        tree={tree}
        parameters={draft.parameters}
        head={draft.head}
        values={draft.values}
        onHead={draft.declare}
        onChange={draft.give}
      />
      {running ? (
        <Button className="mt-4 w-full" onClick={onStop}>
          Stop
        </Button>
      ) : (
        <Button strong className="mt-4 w-full" disabled={draft.text.trim() === ''} onClick={onRun}>
          Run <kbd className="ml-2 font-mono text-small opacity-80">Ctrl ↵</kbd>
        </Button>
      )}
      {unsaved && <p className="mt-2 text-small text-ink-2">The text is being saved; the run waits for its rows.</p>}
      {!draft.unchanged && <Keep key={tree} text={draft.text} head={draft.head} changed={draft.changed} onKept={onKept} />}
    </div>
  );
}
