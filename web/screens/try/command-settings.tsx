import { RunButton } from './run-button.js';

interface CommandSettingsProps {
  readonly text: string;
  readonly running: boolean;
  onRun(): void;
  onStop(): void;
}

/** What becomes of the commands in the editor, and the rehearsal itself. */
export function CommandSettings({ text, running, onRun, onStop }: CommandSettingsProps) {
  return (
    <div className="overflow-auto border-l border-line p-4">
      <h2 className="font-serif text-ink-2 italic">Commands</h2>
      <p className="mt-1 text-small text-ink-2">
        They are carried out in one transaction, and taken back when you have seen what they do. Nothing stays.
      </p>
      <RunButton label="Rehearse" running={running} disabled={text.trim() === ''} onRun={onRun} onStop={onStop} />
      <p className="mt-4 text-small text-ink-2">
        To keep what they do: <code className="font-mono">family-tree do</code> on the command line, with the same commands.
      </p>
    </div>
  );
}
