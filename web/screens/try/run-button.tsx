import { Button } from '../../parts/button.js';

/** Runs what stands in the editor, or stops what runs. */
export function RunButton({
  label = 'Run',
  running,
  disabled,
  onRun,
  onStop,
}: {
  readonly label?: string;
  readonly running: boolean;
  readonly disabled: boolean;
  onRun(): void;
  onStop(): void;
}) {
  if (running)
    return (
      <Button className="mt-4 w-full" onClick={onStop}>
        Stop
      </Button>
    );
  return (
    <Button strong className="mt-4 w-full" disabled={disabled} onClick={onRun}>
      {label} <kbd className="ml-2 font-mono text-small opacity-80">Ctrl ↵</kbd>
    </Button>
  );
}
