import type { Completions } from '../../core/language/index.js';
import type { ColouredToken, Finding, Span } from '../../core/notation/index.js';

export type Marked = Pick<Finding, 'weight' | 'message' | 'span'>;

/** A `selectedKey` that begins so is a place that was asked for: the cursor goes there too. */
export const SOUGHT = 'place ';

export interface EditorProps {
  readonly text: string;
  readonly label: string;
  readonly colours: readonly ColouredToken[];
  readonly findings: readonly Marked[];
  /** The stretch that is selected elsewhere, washed and scrolled to. */
  readonly selected?: Span | null;
  /** Changes where something else is selected: only then is it scrolled to, and not when its lines move by typing. */
  readonly selectedKey?: string;
  readonly numbers?: boolean;
  onChange(text: string): void;
  /** The person put the cursor here. */
  onCursor?(offset: number): void;
  onRun?(): void;
  /** What fits at an offset of the text as it stands. */
  complete?(text: string, offset: number): Promise<Completions>;
  /** What a person is told of the word at an offset. */
  tell?(text: string, offset: number): Promise<{ readonly span: Span; readonly lines: readonly string[] } | null>;
  /** F12, or a click with Ctrl: where the word at an offset is declared. */
  onDefinition?(offset: number): void;
  onRename?(offset: number): void;
  /** Where changes are taken back by somebody else than the editor. */
  readonly takenBackBy?: { undo(): void; redo(): void };
  /** A single line, as in a filter. */
  readonly single?: boolean;
  /** An example, where nothing is written. */
  readonly example?: string;
}
