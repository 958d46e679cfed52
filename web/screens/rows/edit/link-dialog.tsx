import { useState } from 'react';
import { type Entry, linkText, type RowName } from '../../../../core/edits/index.js';
import type { EntityView, RoleView } from '../../../../core/view-models/index.js';
import { Refusal } from '../../../app/refusal.js';
import { type PickedRow, RowPicker } from '../../../app/row-picker.js';
import { Button } from '../../../parts/button.js';
import { Dialog } from '../../../parts/dialog.js';
import { enteredOf, nameOf } from './entries.js';
import { EntryControl } from './entry-control.js';
import { useWrite } from './use-write.js';

interface LinkDialogProps {
  readonly tree: string;
  readonly owner: RowName;
  readonly title: string;
  readonly role: RoleView;
  readonly entities: readonly EntityView[];
  onClose(): void;
}

/** Links rows to one over a role, several at once, each with the pivot's own fields. */
export function LinkDialog({ tree, owner, title, role, entities, onClose }: LinkDialogProps) {
  const [picked, setPicked] = useState<readonly PickedRow[]>([]);
  const [texts, setTexts] = useState<Readonly<Record<string, string | null>>>({});
  const [outcome, setOutcome] = useState('');
  const { busy, problem, write } = useWrite(tree);
  const fields = role.pivot?.fields.filter(({ entry }) => entry !== null) ?? [];
  const entries = fields.flatMap((field): Entry[] => {
    const text = texts[field.name];
    const column = { kind: 'field', id: field.name, field, width: 0 } as const;
    const entered = text === undefined || text === null ? null : enteredOf({ kind: 'value', text }, column, entities);
    return entered === null ? [] : [{ name: field.name, entered }];
  });
  const others = picked.flatMap(({ entity, key }) => nameOf(entity, key, entities) ?? []);
  const text = others.length === 0 ? '' : linkText('link', owner, role.name, others, entries);
  const send = async () => {
    const done = await write(text);
    if (done === null) return;
    const rows = done.lines.flatMap((line) => line.rows);
    const there = rows.filter(({ change }) => change === 'already linked').length;
    if (there === 0) onClose();
    else {
      setOutcome(
        `${there === rows.length ? 'Already linked' : `${there} of them were already linked`}: nothing was written for ${there === 1 ? 'it' : 'them'}.`,
      );
      setPicked([]);
    }
  };
  return (
    <Dialog title={`Link to ${title}.${role.name}`} onClose={onClose}>
      <div className="space-y-2 px-5 py-3">
        <RowPicker
          tree={tree}
          label={`Row to link over ${role.name}`}
          entities={[role.target]}
          className="w-full"
          value={null}
          onPick={(row) => {
            if (row === null) return;
            setOutcome('');
            setPicked((all) => (all.some(({ entity, key }) => entity === row.entity && key === row.key) ? all : [...all, row]));
          }}
        />
        <ul aria-label="Rows to link" className="flex flex-wrap gap-1.5">
          {picked.map((row) => (
            <li key={`${row.entity} ${row.key}`}>
              <button
                type="button"
                title="Leave it out"
                className="rounded-sm border border-line-2 px-2 hover:border-harm hover:text-harm"
                onClick={() => setPicked((all) => all.filter((one) => one !== row))}
              >
                {row.shown} ✕
              </button>
            </li>
          ))}
        </ul>
        {fields.map((field) => (
          <div key={field.name} className="flex items-start gap-3">
            <span className="w-36 shrink-0 py-0.5 font-mono text-small text-pivot">◇ {field.title ?? field.name}</span>
            <EntryControl
              field={field}
              text={texts[field.name] ?? null}
              placeholder={field.entry?.filledBy ?? (field.entry?.required === true ? 'needed' : undefined)}
              onType={(typed) => setTexts((all) => ({ ...all, [field.name]: typed }))}
            />
          </div>
        ))}
        {outcome !== '' && (
          <p role="status" className="text-to-many">
            {outcome}
          </p>
        )}
        {problem !== '' && (
          <p role="alert" className="text-harm">
            <Refusal text={problem} />
          </p>
        )}
        {text !== '' && (
          <pre className="overflow-x-auto border border-line bg-ground px-3 py-1.5 font-mono text-small">{text}</pre>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Close</Button>
          <Button strong disabled={busy || text === ''} onClick={() => void send()}>
            Link
          </Button>
        </div>
      </div>
    </Dialog>
  );
}
