import { Button } from '../../parts/button.js';
import { RunButton } from './run-button.js';

interface CommandSettingsProps {
  readonly text: string;
  readonly running: boolean;
  /** Whether the rows are made here, so that commands are carried out again whenever they are made anew. */
  readonly madeHere: boolean;
  /** Why rows cannot be written; null where they can. */
  readonly locked: string | null;
  onRehearse(): void;
  onCarryOut(): void;
  onStop(): void;
}

/** What becomes of the commands in the editor: rehearsed, or carried out to stay. */
export function CommandSettings(props: CommandSettingsProps) {
  const { text, running, madeHere, locked, onRehearse, onCarryOut, onStop } = props;
  const empty = text.trim() === '';
  return (
    <div className="overflow-auto border-l border-line p-4">
      <h2 className="font-serif text-ink-2 italic">Commands</h2>
      <p className="mt-1 text-small text-ink-2">
        All of them are one transaction. Rehearsed, they are taken back when you have seen what they do.
      </p>
      <RunButton label="Rehearse" running={running} disabled={empty} onRun={onRehearse} onStop={onStop} />
      {locked === null ? (
        <>
          <Button className="mt-2 w-full" disabled={empty || running} onClick={onCarryOut}>
            Carry out
          </Button>
          <p className="mt-2 text-small text-ink-2">
            {madeHere
              ? 'On the scratch database: they are kept, and carried out again whenever it is made anew.'
              : 'On the database itself. How its rows were is kept, so that it can be taken back.'}
          </p>
        </>
      ) : (
        <p className="mt-4 text-small text-ink-2">{locked}</p>
      )}
    </div>
  );
}
