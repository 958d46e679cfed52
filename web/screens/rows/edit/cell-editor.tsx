import { useRef, useState } from 'react';
import { RowPicker } from '../../../app/row-picker.js';
import type { GridColumn } from '../columns.js';
import type { Row } from '../use-window.js';
import { type CellEntry, type ChangedCell, pickedFrom, problemOf, storedText } from './entries.js';
import { EntryControl } from './entry-control.js';

/** Where the grid goes on when a cell is done: the cell below, the next one, the one before, or it stays. */
export type Onward = 'below' | 'next' | 'before' | 'stay';

interface CellEditorProps {
  readonly tree: string;
  readonly column: GridColumn;
  readonly row: Row;
  readonly changed: ChangedCell | null;
  /** What was typed that opened it; null where it was opened by a key or a click. */
  readonly typed: string | null;
  onDone(entry: CellEntry, onward: Onward): void;
  onCancel(): void;
}

/** What begins with the letter by which it was opened; the others have a control of their own. */
const TYPED: readonly string[] = ['text', 'integer', 'bigint', 'decimal', 'real', 'uuid', 'date', 'time', 'timestamp', 'json'];

/** A cell while a person changes it. Enter and Tab take what is typed, Escape leaves the cell as it was. */
export function CellEditor({ tree, column, row, changed, typed, onDone, onCancel }: CellEditorProps) {
  const begun =
    changed?.entry.kind === 'value' ? changed.entry.text : changed?.entry.kind === 'nothing' ? null : storedText(column, row);
  const [text, setText] = useState(
    typed !== null && column.kind === 'field' && TYPED.includes(column.field.kind) ? typed : begun,
  );
  const done = useRef(false);
  if (column.kind === 'one') {
    const { role } = column;
    return (
      <fieldset
        className="absolute inset-x-0 top-0 z-20 flex items-center gap-1 bg-label font-sans shadow-slip"
        onKeyDown={(event) => {
          if (event.key === 'Escape') onCancel();
          event.stopPropagation();
        }}
      >
        <RowPicker
          tree={tree}
          label={role.name}
          entities={role.targets}
          immediate
          className="w-full"
          value={changed?.entry.kind === 'row' ? changed.entry.row : pickedFrom(column, row)}
          onPick={(picked) => (picked === null ? onCancel() : onDone({ kind: 'row', row: picked }, 'stay'))}
        />
        {!role.required && (
          <button
            type="button"
            className="shrink-0 px-1.5 text-small text-ink-2 hover:text-selected"
            onClick={() => onDone({ kind: 'nothing' }, 'stay')}
          >
            nothing
          </button>
        )}
      </fieldset>
    );
  }
  if (column.kind !== 'field') return null;
  const { field } = column;
  const take = (onward: Onward): boolean => {
    if (done.current) return true;
    if (text !== null && problemOf(field, text) !== null) return false;
    done.current = true;
    onDone(text === null ? { kind: 'nothing' } : { kind: 'value', text }, onward);
    return true;
  };
  return (
    <fieldset
      className="absolute inset-x-0 top-0 z-20 block min-w-44 bg-label p-0.5 text-left font-mono shadow-slip"
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') {
          done.current = true;
          onCancel();
        } else if (event.key === 'Enter' && !event.shiftKey) {
          event.preventDefault();
          take('below');
        } else if (event.key === 'Tab') {
          event.preventDefault();
          take(event.shiftKey ? 'before' : 'next');
        } else if (event.key === '0' && event.ctrlKey) {
          event.preventDefault();
          setText(null);
        }
      }}
      onBlur={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget)) take('stay');
      }}
    >
      <EntryControl field={field} text={text} immediate onType={setText} />
    </fieldset>
  );
}
