import type { DesignView } from '../../../core/view-models/index.js';
import { Expected, type Seen } from './expected.js';
import { Keep } from './keep.js';
import { Parameters } from './parameters.js';
import { RunButton } from './run-button.js';
import type { Draft } from './use-draft.js';

interface QuerySettingsProps {
  readonly view: DesignView | null;
  /** What the last run brought; null where there was none, or it failed. */
  readonly seen: Seen | null;
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
export function QuerySettings({ view, seen, tree, draft, running, unsaved, onRun, onStop, onKept }: QuerySettingsProps) {
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
      <RunButton running={running} disabled={draft.text.trim() === ''} onRun={onRun} onStop={onStop} />
      {unsaved && <p className="mt-2 text-small text-ink-2">The text is being saved; the run waits for its rows.</p>}
      {!draft.unchanged && <Keep key={tree} text={draft.text} head={draft.head} changed={draft.changed} onKept={onKept} />}
      {view !== null && draft.chosen !== null && draft.unchanged && (
        <Expected
          tree={tree}
          view={view}
          query={draft.chosen.name}
          parameters={draft.parameters}
          values={draft.values}
          seen={running ? null : seen}
        />
      )}
    </div>
  );
}
