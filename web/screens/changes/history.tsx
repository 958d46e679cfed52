import { useState } from 'react';
import type { ToldHistory } from '../../../contract/index.js';
import { Button } from '../../parts/button.js';
import { Dialog } from '../../parts/dialog.js';
import { LineDiff } from '../../parts/line-diff.js';
import { momentText, rowsText, timeText } from './verdicts.js';

/** What was done to a database, the newest first, with a way back. */
export function HistoryList({
  history,
  undoing,
  onTakeBack,
  onLetGo,
}: {
  readonly history: readonly ToldHistory[];
  readonly undoing: boolean;
  onTakeBack(): void;
  /** Lets go of what is kept aside of a plan; gives why that could not be, in words, or null. */
  onLetGo(number: number): Promise<string | null>;
}) {
  const [shown, setShown] = useState<ToldHistory | null>(null);
  // What only made the database has no way back but to an empty one.
  const newest = history.find(({ state, undoes }) => state === 'applied' && undoes === null);
  const canTakeBack = newest !== undefined && newest.changes.length > 0 && !undoing;
  return (
    <section aria-label="History">
      <h3 className="border-b border-line-2 pb-1 font-serif font-semibold">History</h3>
      {history.length === 0 && <p className="mt-1 text-small text-ink-2">Nothing was changed here by this program yet.</p>}
      <ol>
        {history.map((entry) => (
          <li key={entry.number} className="border-b border-line py-1.5 last:border-0">
            <p className="flex items-baseline gap-2">
              <span className="font-mono text-small">{entry.number}</span>
              <button
                type="button"
                className="min-w-0 truncate text-left font-semibold hover:text-selected hover:underline"
                title="What it changed, and the text before and after"
                onClick={() => setShown(entry)}
              >
                {entry.name}
              </button>
              {entry.state === 'undone' && <span className="ml-auto text-small whitespace-nowrap text-ink-3">taken back</span>}
              {entry === newest && canTakeBack && (
                <button
                  type="button"
                  className="ml-auto text-small whitespace-nowrap text-selected underline underline-offset-2"
                  onClick={onTakeBack}
                >
                  Take back…
                </button>
              )}
            </p>
            <p className="text-small text-ink-2">
              {momentText(entry.at)}, {entry.changes.length === 1 ? '1 change' : `${entry.changes.length} changes`},{' '}
              {rowsText(entry.rows)}, {timeText(entry.milliseconds)}
            </p>
          </li>
        ))}
      </ol>
      {shown !== null && <EntryDialog entry={shown} onLetGo={onLetGo} onClose={() => setShown(null)} />}
    </section>
  );
}

function EntryDialog({
  entry,
  onLetGo,
  onClose,
}: {
  readonly entry: ToldHistory;
  onLetGo(number: number): Promise<string | null>;
  onClose(): void;
}) {
  const [asked, setAsked] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const { number, name, changes, textBefore, textAfter, asides } = entry;
  return (
    <Dialog title={`${number}: ${name}`} wide onClose={onClose}>
      <div className="space-y-4 py-3">
        <ul className="list-disc space-y-0.5 px-5 pl-9">
          {changes.map((sentence) => (
            <li key={sentence} className="break-words">
              {sentence}
            </li>
          ))}
          {changes.length === 0 && <li>No table became otherwise.</li>}
        </ul>
        {asides.length > 0 && (
          <p className="px-5 text-ink-2">
            What went is kept aside in the database, in{' '}
            <span className="font-mono text-small break-all">{asides.join(', ')}</span>. Taking this back brings it back.{' '}
            <Button
              onClick={() => {
                if (!asked) setAsked(true);
                else void onLetGo(number).then((why) => (why === null ? onClose() : setProblem(why)));
              }}
            >
              {asked ? 'Yes, let go of it: it does not come back' : 'Let go of it…'}
            </Button>
          </p>
        )}
        {problem !== null && (
          <p role="alert" className="px-5 text-harm">
            {problem}
          </p>
        )}
        {textBefore === null ? (
          <p className="px-5 text-ink-2">The text before is not known: the history begins here.</p>
        ) : (
          <LineDiff before={textBefore} after={textAfter} />
        )}
        <div className="px-5 pb-2 text-right">
          <Button onClick={onClose}>Close</Button>
        </div>
      </div>
    </Dialog>
  );
}
