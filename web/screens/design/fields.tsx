import { useState } from 'react';
import type { EntityCard, FieldCard } from '../../../core/cards/index.js';
import { useAppSelector } from '../../app/store.js';
import { useClick } from '../../app/use-click.js';
import { Button } from '../../parts/button.js';
import { Input } from '../../parts/input.js';

const TYPES = 'integer bigint decimal(10, 2) real boolean text text(80) date time timestamp uuid json bytes'
  .replace(', ', ',')
  .split(' ');

/** The fields of an entity; a click on one changes it in the text, and the last line adds one. */
export function Fields({ card }: { readonly card: EntityCard }) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <>
      <table className="w-full font-mono text-small">
        <tbody>
          {card.fields.map((field) =>
            open === field.name ? (
              <tr key={field.name}>
                <td colSpan={3} className="py-1">
                  <FieldForm entity={card.name} field={field} onClose={() => setOpen(null)} />
                </td>
              </tr>
            ) : (
              <tr key={field.name} className="border-b border-line align-baseline last:border-0">
                <td className="py-0.5 pr-3">
                  {field.derived ? (
                    field.name
                  ) : (
                    <button
                      type="button"
                      className="hover:text-selected hover:underline"
                      title="Change this field"
                      onClick={() => setOpen(field.name)}
                    >
                      {field.name}
                    </button>
                  )}
                </td>
                <td className="pr-3 text-to-one">{field.type}</td>
                <td className="text-ink-2">
                  {field.marks.join(', ')}
                  {field.column !== '' && field.column !== field.name && ` column ${field.column}`}
                  {field.note !== null && <span className="font-sans italic"> {field.note}</span>}
                </td>
              </tr>
            ),
          )}
        </tbody>
      </table>
      {open === '' ? (
        <FieldForm entity={card.name} field={null} onClose={() => setOpen(null)} />
      ) : (
        <button type="button" className="mt-1 text-small text-selected hover:underline" onClick={() => setOpen('')}>
          Add a field
        </button>
      )}
    </>
  );
}

function FieldForm({
  entity,
  field,
  onClose,
}: {
  readonly entity: string;
  /** Null for a new one. */
  readonly field: FieldCard | null;
  onClose(): void;
}) {
  const click = useClick();
  const choices = useAppSelector((state) => state.workspace.view?.choices);
  const given = field?.default ?? '';
  const [name, setName] = useState('');
  const [type, setType] = useState(field?.type ?? 'text(80)');
  const [optional, setOptional] = useState(field?.optional ?? true);
  const [byDefault, setByDefault] = useState(given);
  const [problems, setProblems] = useState<readonly string[]>([]);
  const isKey = field?.key === true;

  const save = async () => {
    const said: string[] = [];
    const wish = byDefault.trim() === '' ? null : byDefault.trim();
    if (field === null) {
      if (!/^[a-z_][a-z0-9_]*$/.test(name)) said.push('A field’s name is made of small letters, digits and _.');
      else
        said.push(
          ...(await click(
            { kind: 'add field', entity, field: { name, type, optional, default: wish } },
            `add field ${entity}.${name}`,
          )),
        );
    } else {
      const what = `change ${entity}.${field.name}`;
      if (type !== field.type) said.push(...(await click({ kind: 'type', entity, field: field.name, type }, what)));
      if (said.length === 0 && optional !== field.optional && !isKey)
        said.push(...(await click({ kind: 'optional', entity, field: field.name, optional }, what)));
      if (said.length === 0 && byDefault !== given)
        said.push(...(await click({ kind: 'default', entity, field: field.name, literal: wish }, what)));
    }
    setProblems(said);
    if (said.length === 0) onClose();
  };

  return (
    <form
      aria-label={field === null ? 'New field' : `Field ${field.name}`}
      className="flex flex-wrap items-center gap-2 border border-line-2 bg-sheet p-2"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onClose();
      }}
    >
      {field === null ? (
        <Input
          autoFocus
          aria-label="Name"
          placeholder="name"
          value={name}
          code
          className="w-28"
          onChange={(event) => setName(event.target.value)}
        />
      ) : (
        <span className="font-mono text-small font-bold">{field.name}</span>
      )}
      <Input
        aria-label="Type"
        list="field-types"
        value={type}
        code
        className="w-28"
        onChange={(event) => setType(event.target.value)}
      />
      <datalist id="field-types">
        {[...TYPES, ...(choices ?? []).map(({ name }) => name)].map((option) => (
          <option key={option} value={option} />
        ))}
      </datalist>
      {!isKey && (
        <label className="flex items-center gap-1 font-sans text-small">
          <input type="checkbox" checked={optional} onChange={(event) => setOptional(event.target.checked)} /> optional
        </label>
      )}
      <label className="flex items-center gap-1 font-sans text-small">
        default
        <Input
          value={byDefault}
          placeholder="none"
          code
          className="w-20"
          onChange={(event) => setByDefault(event.target.value)}
        />
      </label>
      <Button type="submit" className="ml-auto !px-2 !py-0 text-small">
        {field === null ? 'Add' : 'Change'}
      </Button>
      {problems.map((problem) => (
        <p key={problem} role="alert" className="w-full font-sans text-small text-harm">
          {problem}
        </p>
      ))}
    </form>
  );
}
