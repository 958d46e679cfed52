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
  const change = useFieldChange(entity, field);
  const [wish, setWish] = useState<FieldWish>({
    name: field?.name ?? '',
    type: field?.type ?? 'text(80)',
    optional: field?.optional ?? true,
    default: field?.default ?? '',
  });
  const [problems, setProblems] = useState<readonly string[]>([]);
  const set = (part: Partial<FieldWish>) => setWish((before) => ({ ...before, ...part }));

  const save = async () => {
    const said = await change(wish);
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
          value={wish.name}
          code
          className="w-28"
          onChange={(event) => set({ name: event.target.value })}
        />
      ) : (
        <span className="font-mono text-small font-bold">{field.name}</span>
      )}
      <TypeInput type={wish.type} onChange={(type) => set({ type })} />
      {field?.key !== true && (
        <label className="flex items-center gap-1 font-sans text-small">
          <input type="checkbox" checked={wish.optional} onChange={(event) => set({ optional: event.target.checked })} /> optional
        </label>
      )}
      <label className="flex items-center gap-1 font-sans text-small">
        default
        <Input
          value={wish.default}
          placeholder="none"
          code
          className="w-20"
          onChange={(event) => set({ default: event.target.value })}
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

/** A type by its name in the notation, with those that there are offered. */
function TypeInput({ type, onChange }: { readonly type: string; onChange(type: string): void }) {
  const choices = useAppSelector((state) => state.workspace.view?.choices);
  return (
    <>
      <Input
        aria-label="Type"
        list="field-types"
        value={type}
        code
        className="w-28"
        onChange={(event) => onChange(event.target.value)}
      />
      <datalist id="field-types">
        {[...TYPES, ...(choices ?? []).map(({ name }) => name)].map((option) => (
          <option key={option} value={option} />
        ))}
      </datalist>
    </>
  );
}

/** A field as a person wants it; an empty default is none. */
interface FieldWish {
  readonly name: string;
  readonly type: string;
  readonly optional: boolean;
  readonly default: string;
}

/** Writes a field into the text as it is wanted, or adds it; gives what is wrong with the wish. */
function useFieldChange(entity: string, field: FieldCard | null): (wish: FieldWish) => Promise<readonly string[]> {
  const click = useClick();
  return async (wish) => {
    const literal = wish.default.trim() === '' ? null : wish.default.trim();
    const { name, type, optional } = wish;
    if (field === null) {
      if (!/^[a-z_][a-z0-9_]*$/.test(name)) return ['A field’s name is made of small letters, digits and _.'];
      return click(
        { kind: 'add field', entity, field: { name, type, optional, default: literal } },
        `add field ${entity}.${name}`,
      );
    }
    const what = `change ${entity}.${field.name}`;
    const of = { entity, field: field.name };
    const problems: string[] = [];
    if (type !== field.type) problems.push(...(await click({ kind: 'type', ...of, type }, what)));
    if (problems.length === 0 && optional !== field.optional && !field.key)
      problems.push(...(await click({ kind: 'optional', ...of, optional }, what)));
    if (problems.length === 0 && wish.default !== (field.default ?? ''))
      problems.push(...(await click({ kind: 'default', ...of, literal }, what)));
    return problems;
  };
}
