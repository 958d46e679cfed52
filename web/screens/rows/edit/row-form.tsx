import { useState } from 'react';
import { createText, type Entry, type RowName, updateText } from '../../../../core/edits/index.js';
import { shownKey } from '../../../../core/values/index.js';
import type { DesignView, EntityView, FieldView, RoleView } from '../../../../core/view-models/index.js';
import { Refusal } from '../../../app/refusal.js';
import { RowPicker } from '../../../app/row-picker.js';
import { Button } from '../../../parts/button.js';
import { Dialog } from '../../../parts/dialog.js';
import { Select } from '../../../parts/input.js';
import type { GridColumn } from '../columns.js';
import { kindOf, titleOf } from '../row-parts.js';
import type { Row } from '../use-window.js';
import { type CellEntry, enteredOf, nameInCommand, nameOf, pickedFrom, problemOf, typedText } from './entries.js';
import { EntryControl } from './entry-control.js';
import { useWrite } from './use-write.js';

/** The row through which another is made: it fills the role that leads back. */
export interface Through {
  readonly owner: RowName;
  readonly title: string;
  readonly role: RoleView;
}

/** What the form is for. */
export type FormPurpose =
  | { readonly kind: 'add'; readonly through: Through | null }
  | { readonly kind: 'duplicate'; readonly row: Row }
  | { readonly kind: 'change'; readonly row: Row; readonly name: RowName };

interface RowFormProps {
  readonly tree: string;
  readonly view: DesignView;
  readonly entity: EntityView;
  readonly purpose: FormPurpose;
  onClose(): void;
  /** Where the row is that was written. */
  onWritten(entity: string, key: string): void;
}

type FormColumn = Extract<GridColumn, { kind: 'field' | 'one' }>;

/** A row as a form: each field with its type's control, each role with a picker, and what fills the rest. */
export function RowForm({ tree, view, entity, purpose, onClose, onWritten }: RowFormProps) {
  const before = purpose.kind === 'add' ? null : purpose.row;
  const [kind, setKind] = useState(before === null ? (entity.concrete[0] ?? entity.name) : kindOf(before, entity.name));
  const of = view.entities.find(({ name }) => name === kind) ?? entity;
  const columns = columnsFor(of, purpose);
  const [entries, setEntries] = useState<Readonly<Record<string, CellEntry>>>(() =>
    purpose.kind === 'duplicate' ? entriesOf(columns, purpose.row) : {},
  );
  const { busy, problem, write } = useWrite(tree);
  const set = (id: string, entry: CellEntry) => setEntries((all) => ({ ...all, [id]: entry }));
  const wrong = columns.some((column) => {
    const entry = entries[column.id];
    return column.kind === 'field' && entry?.kind === 'value' && problemOf(column.field, entry.text) !== null;
  });
  const text = commandFor(of, purpose, columns, entries, view.entities);
  const send = async () => {
    const done = await write(text);
    const row = done?.lines.at(-1)?.rows[0];
    if (row === undefined) return;
    onWritten(row.entity, row.key);
    onClose();
  };
  return (
    <Dialog title={titleFor(entity, purpose)} onClose={onClose}>
      <form
        className="px-5 py-3"
        onSubmit={(event) => {
          event.preventDefault();
          void send();
        }}
      >
        {purpose.kind === 'add' && purpose.through !== null && (
          <p className="mb-2 text-to-many">
            {purpose.through.role.name} of {purpose.through.title}
            {purpose.through.role.back !== null && (
              <span className="text-ink-2">: {purpose.through.role.back} is filled by it</span>
            )}
          </p>
        )}
        {purpose.kind === 'add' && entity.concrete.length > 1 && (
          <label className="mb-2 flex items-center gap-3">
            <span className="w-36 shrink-0 text-kinds">kind</span>
            <Select value={kind} onChange={(event) => setKind(event.target.value)}>
              {entity.concrete.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </Select>
          </label>
        )}
        {columns.map((column) => (
          <Line
            key={column.id}
            tree={tree}
            column={column}
            stored={before}
            isNew={purpose.kind !== 'change'}
            entry={entries[column.id] ?? null}
            onChange={(entry) => set(column.id, entry)}
          />
        ))}
        {problem !== '' && (
          <p role="alert" className="mt-3 whitespace-pre-wrap text-harm">
            <Refusal text={problem} />
          </p>
        )}
        <pre className="mt-3 overflow-x-auto border border-line bg-ground px-3 py-1.5 font-mono text-small">{text}</pre>
        <div className="mt-3 flex justify-end gap-2">
          <Button onClick={onClose}>Close</Button>
          <Button strong type="submit" disabled={busy || wrong || text === ''}>
            {purpose.kind === 'change' ? 'Write' : 'Add'}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function titleFor(entity: EntityView, purpose: FormPurpose): string {
  switch (purpose.kind) {
    case 'add':
      return `Add to ${entity.name}`;
    case 'duplicate':
      return `Add a copy of ${titleOf(purpose.row)}`;
    case 'change':
      return `Change ${titleOf(purpose.row)}`;
  }
}

/** The fields and roles that a row of this entity is given: of one that is there those that can change. */
export function columnsFor(entity: EntityView, purpose: FormPurpose): readonly FormColumn[] {
  const declared = new Set(entity.ends.flatMap(({ columns }) => columns));
  const back = purpose.kind === 'add' ? (purpose.through?.role.back ?? null) : null;
  const isOpen = ({ entry, name, kinds }: FieldView) =>
    entry !== null &&
    !(purpose.kind === 'change' && entry.once) &&
    (kinds === null || kinds.includes(entity.name)) &&
    !declared.has(name);
  const fields = entity.fields.filter(isOpen).map((field): FormColumn => ({ kind: 'field', id: field.name, field, width: 0 }));
  const roles = entity.ends
    .filter(({ many, path, name, kinds }) => !many && !path && name !== back && (kinds === null || kinds.includes(entity.name)))
    .filter(({ columns }) => columns.length > 0)
    .map((role): FormColumn => ({ kind: 'one', id: role.id, role, order: role.id, width: 0 }));
  const isKey = (column: FormColumn) => column.kind === 'field' && column.field.key;
  return [...fields.filter((one) => !isKey(one)), ...roles, ...fields.filter(isKey)];
}

/** What a row holds, as entries; its key stays its own. */
export function entriesOf(columns: readonly FormColumn[], row: Row): Readonly<Record<string, CellEntry>> {
  const entries: Record<string, CellEntry> = {};
  for (const column of columns) {
    if (column.kind === 'one') {
      const picked = pickedFrom(column, row);
      if (picked !== null) entries[column.id] = { kind: 'row', row: picked };
    } else if (!column.field.key) {
      const text = typedText(row[column.id], column.field);
      if (text !== null) entries[column.id] = { kind: 'value', text };
    }
  }
  return entries;
}

/** Entries by the names that a command, or a sample, calls them. */
export function namedEntries(
  columns: readonly FormColumn[],
  entries: Readonly<Record<string, CellEntry>>,
  entities: readonly EntityView[],
): readonly Entry[] {
  return columns.flatMap((column): Entry[] => {
    const entry = entries[column.id];
    const entered = entry === undefined ? null : enteredOf(entry, column, entities);
    return entered === null ? [] : [{ name: nameInCommand(column), entered }];
  });
}

function commandFor(
  entity: EntityView,
  purpose: FormPurpose,
  columns: readonly FormColumn[],
  entries: Readonly<Record<string, CellEntry>>,
  entities: readonly EntityView[],
): string {
  const given = namedEntries(columns, entries, entities);
  if (purpose.kind === 'change') return given.length === 0 ? '' : updateText(purpose.name, given);
  const through = purpose.kind === 'add' ? purpose.through : null;
  return createText(through === null ? entity.name : { owner: through.owner, role: through.role.name }, given);
}

interface LineProps {
  readonly tree: string;
  readonly column: FormColumn;
  readonly stored: Row | null;
  readonly isNew: boolean;
  readonly entry: CellEntry | null;
  onChange(entry: CellEntry): void;
}

function Line({ tree, column, stored, isNew, entry, onChange }: LineProps) {
  const required = column.kind === 'one' ? column.role.required : column.field.entry?.required === true;
  const filledBy = column.kind === 'one' || !isNew ? null : (column.field.entry?.filledBy ?? null);
  const label = column.kind === 'one' ? column.role.name : (column.field.title ?? column.field.name);
  return (
    <div className="flex items-start gap-3 border-b border-line py-1 last:border-0">
      <span
        className={`w-36 shrink-0 truncate py-0.5 font-mono text-small ${column.kind === 'one' ? 'text-to-one' : 'text-ink-2'}`}
        title={column.kind === 'one' ? `→ ${column.role.targets.join(' or ')}` : column.field.type}
      >
        {label}
        {required && filledBy === null && isNew && <span className="text-harm"> needed</span>}
      </span>
      {column.kind === 'one' ? (
        <RowPicker
          tree={tree}
          label={label}
          entities={column.role.targets}
          className="flex-1"
          value={entry?.kind === 'row' ? entry.row : entry === null && stored !== null ? pickedFrom(column, stored) : null}
          onPick={(row) => onChange(row === null ? { kind: 'nothing' } : { kind: 'row', row })}
        />
      ) : (
        <EntryControl
          field={column.field}
          text={
            entry?.kind === 'value'
              ? entry.text
              : entry === null && stored !== null && !isNew
                ? typedText(stored[column.id], column.field)
                : null
          }
          placeholder={filledBy ?? undefined}
          onType={(text) => onChange(text === null ? { kind: 'nothing' } : { kind: 'value', text })}
        />
      )}
      {!required && (
        <button
          type="button"
          aria-label={`Nothing in ${label}`}
          title="Nothing (null)"
          className={`shrink-0 rounded-sm px-1.5 py-0.5 text-small hover:text-selected ${entry?.kind === 'nothing' ? 'bg-wash text-ink' : 'text-ink-3'}`}
          onClick={() => onChange({ kind: 'nothing' })}
        >
          nothing
        </button>
      )}
    </div>
  );
}

/** The row through which others are made, as a form takes it. */
export function throughOf(
  owner: EntityView,
  key: string,
  title: string,
  role: RoleView,
  entities: readonly EntityView[],
): Through | null {
  const name = nameOf(owner.name, key, entities);
  return name === null ? null : { owner: name, title: title === '' ? `${owner.name} ${shownKey(key)}` : title, role };
}
