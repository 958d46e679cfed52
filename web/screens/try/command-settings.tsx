import { Button } from '../../parts/button.js';
import { RunButton } from './run-button.js';

interface CommandSettingsProps {
  readonly text: string;
  readonly running: boolean;
  /** Whether the rows are made here, so that commands can be carried out on them to stay. */
  readonly madeHere: boolean;
  onRehearse(): void;
  onCarryOut(): void;
  onStop(): void;
}

/** What becomes of the commands in the editor: rehearsed, or carried out to stay. */
export function CommandSettings(props: CommandSettingsProps) {
  const { text, running, madeHere, onRehearse, onCarryOut, onStop } = props;
  const empty = text.trim() === '';
  return (
    <div className="overflow-auto border-l border-line p-4">
      <h2 className="font-serif text-ink-2 italic">Commands</h2>
      <p className="mt-1 text-small text-ink-2">
        All of them are one transaction. Rehearsed, they are taken back when you have seen what they do.
      </p>
      <RunButton label="Rehearse" running={running} disabled={empty} onRun={onRehearse} onStop={onStop} />
      {madeHere ? (
        <>
          <Button className="mt-2 w-full" disabled={empty || running} onClick={onCarryOut}>
            Carry out
          </Button>
          <p className="mt-2 text-small text-ink-2">
            On the scratch database: they are kept, and carried out again whenever it is made anew.
          </p>
        </>
      ) : (
        <p className="mt-4 text-small text-ink-2">
          These rows are not made here. To carry the commands out: <code className="font-mono">family-tree do</code> on the
          command line.
        </p>
      )}
    </div>
  );
}
