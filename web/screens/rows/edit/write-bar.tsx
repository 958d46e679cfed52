import { Refusal } from '../../../app/refusal.js';
import { Button } from '../../../parts/button.js';
import { type ChangedCells, countOf } from './entries.js';

interface WriteBarProps {
  readonly cells: ChangedCells;
  /** Cells that somebody else has changed since: what stands there now. */
  readonly clashes: readonly { readonly key: string; readonly column: string; readonly now: string | null }[];
  readonly busy: boolean;
  readonly problem: string;
  readonly canUndo: boolean;
  /** What could not be taken of a paste; empty where all was. */
  readonly note: string;
  onWrite(): void;
  onUndo(): void;
  onDiscard(): void;
  onTakeTheirs(key: string, column: string): void;
}

/** What was changed and is not written yet: several cells are one write. */
export function WriteBar(props: WriteBarProps) {
  const { cells, clashes, busy, problem, canUndo, note, onWrite, onUndo, onDiscard, onTakeTheirs } = props;
  const count = countOf(cells);
  if (count.cells === 0 && problem === '' && note === '') return null;
  return (
    <section aria-label="Unwritten changes" className="shrink-0 border-t border-line-2 bg-sheet px-4 py-1.5">
      {problem !== '' && (
        <p role="alert" className="mb-1 whitespace-pre-wrap text-harm">
          <Refusal text={problem} />
        </p>
      )}
      {note !== '' && <p className="mb-1 text-to-many">{note}</p>}
      {clashes.map(({ key, column, now }) => (
        <p key={`${key} ${column}`} className="mb-1 text-to-many">
          ▲ {column} of {key} was changed by somebody else meanwhile: it is {now === null ? 'empty' : `“${now}”`} now.{' '}
          <button type="button" className="underline decoration-dotted" onClick={() => onTakeTheirs(key, column)}>
            Take theirs
          </button>
        </p>
      ))}
      {count.cells > 0 && (
        <div className="flex items-center gap-3">
          <span role="status">
            {count.cells.toLocaleString('en')} {count.cells === 1 ? 'cell' : 'cells'} of {count.rows.toLocaleString('en')}{' '}
            {count.rows === 1 ? 'row' : 'rows'} changed, and not written
          </span>
          <span className="ml-auto flex gap-2">
            <Button disabled={!canUndo} onClick={onUndo}>
              Undo <kbd className="ml-1 font-mono text-small opacity-80">Ctrl Z</kbd>
            </Button>
            <Button onClick={onDiscard}>Discard</Button>
            <Button strong disabled={busy} onClick={onWrite}>
              Write <kbd className="ml-1 font-mono text-small opacity-80">Ctrl ↵</kbd>
            </Button>
          </span>
        </div>
      )}
    </section>
  );
}
