import { useId, useState } from 'react';
import type { FieldView } from '../../../../core/view-models/index.js';
import { Input, Select } from '../../../parts/input.js';
import { problemOf } from './entries.js';

interface EntryControlProps {
  readonly field: FieldView;
  /** What is typed; null for nothing. */
  readonly text: string | null;
  readonly immediate?: boolean;
  readonly placeholder?: string;
  onType(text: string | null): void;
}

/** How a value is written, where that is not plain. */
const EXAMPLES: Readonly<Record<string, string>> = { date: '2031-04-12', time: '09:30', timestamp: '2031-04-12 09:30' };

/** Texts longer than this are written on several lines. */
const LONG = 200;

/** The control of a field's type: a choice by its titles, a day, a number, a long text, JSON that is checked, bytes from a file. */
export function EntryControl({ field, text, immediate = false, placeholder, onType }: EntryControlProps) {
  const id = useId();
  const problem = text === null ? null : problemOf(field, text);
  const shared = {
    'aria-label': field.title ?? field.name,
    'aria-invalid': problem !== null,
    'aria-describedby': problem === null ? undefined : id,
    autoFocus: immediate,
    placeholder: text === null ? (placeholder ?? EXAMPLES[field.kind] ?? 'nothing') : '',
  };
  return (
    <span className="block min-w-0 flex-1">
      <Control field={field} text={text} filledBy={placeholder ?? null} shared={shared} onType={onType} />
      {problem !== null && (
        <span id={id} className="mt-0.5 block font-sans text-small whitespace-normal text-harm">
          {problem}
        </span>
      )}
    </span>
  );
}

interface ControlProps extends Pick<EntryControlProps, 'field' | 'text' | 'onType'> {
  readonly shared: object;
  /** What fills it where nothing is put in. */
  readonly filledBy: string | null;
}

function Control({ field, text, shared, filledBy, onType }: ControlProps) {
  const { entry } = field;
  const type = entry?.type;
  const typed = (event: { readonly target: { readonly value: string } }) => onType(event.target.value);
  switch (type?.kind) {
    case 'choice':
    case 'boolean': {
      const values = type.kind === 'choice' ? type.values : ['true', 'false'];
      return (
        <Select
          {...shared}
          className="w-full"
          value={text ?? ''}
          onChange={(event) => onType(event.target.value === '' ? null : event.target.value)}
        >
          <option value="">
            {filledBy !== null ? (field.titles[filledBy] ?? filledBy) : entry?.required === true ? 'choose…' : 'nothing'}
          </option>
          {values.map((value) => (
            <option key={value} value={value}>
              {field.titles[value] ?? value}
            </option>
          ))}
        </Select>
      );
    }
    case 'bytes':
      return <BytesControl text={text} shared={shared} onType={onType} />;
    case 'json':
      return <Lines shared={shared} text={text} onType={onType} />;
    case 'text':
      if (type.length === null || type.length > LONG) return <Lines shared={shared} text={text} onType={onType} />;
      return <Input {...shared} className="w-full" value={text ?? ''} onChange={typed} />;
    default:
      return (
        <Input
          {...shared}
          code
          className="w-full"
          inputMode={modeOf(type?.kind)}
          value={text ?? ''}
          onChange={(event) => onType(event.target.value === '' ? null : event.target.value)}
        />
      );
  }
}

function modeOf(kind: string | undefined): 'numeric' | 'decimal' | 'text' {
  if (kind === 'integer' || kind === 'bigint') return 'numeric';
  return kind === 'decimal' || kind === 'real' ? 'decimal' : 'text';
}

function Lines({ shared, text, onType }: Pick<ControlProps, 'shared' | 'text' | 'onType'>) {
  return (
    <textarea
      {...shared}
      rows={Math.min(8, Math.max(2, (text ?? '').split('\n').length))}
      className="block w-full min-w-0 rounded-sm border border-line-2 bg-label px-2 py-0.5 font-mono text-small text-ink placeholder:text-ink-3"
      value={text ?? ''}
      onChange={(event) => onType(event.target.value.replaceAll('\r\n', '\n'))}
    />
  );
}

/** As many bytes of a file as a command holds. */
const MOST_BYTES = 40_000;

function BytesControl({ shared, text, onType }: Pick<ControlProps, 'shared' | 'text' | 'onType'>) {
  const [tooLarge, setTooLarge] = useState(false);
  const take = async (file: File | undefined) => {
    if (file === undefined) return;
    const bytes = new Uint8Array(await file.slice(0, MOST_BYTES + 1).arrayBuffer());
    setTooLarge(bytes.length > MOST_BYTES);
    if (bytes.length > MOST_BYTES) return;
    onType(Array.from(bytes, (one) => one.toString(16).padStart(2, '0')).join(''));
  };
  return (
    <span className="flex items-center gap-2">
      <input {...shared} type="file" className="min-w-0 text-small" onChange={(event) => void take(event.target.files?.[0])} />
      <span className={`text-small ${tooLarge ? 'text-harm' : 'text-ink-2'}`}>
        {tooLarge || text === null ? `a file of up to ${MOST_BYTES.toLocaleString('en')} bytes` : `${text.length / 2} bytes`}
      </span>
    </span>
  );
}
