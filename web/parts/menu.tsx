import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react';
import { Check, ChevronDown } from 'lucide-react';

/** A choice among a few words, behind a button that says the one in force. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  shown = (option) => option,
}: {
  readonly label: string;
  readonly value: T;
  readonly options: readonly T[];
  onChange(value: T): void;
  shown?(option: T): string;
}) {
  return (
    <Listbox value={value} onChange={onChange}>
      <ListboxButton
        aria-label={`${label}: ${shown(value)}`}
        className="flex items-center gap-1.5 rounded-sm border border-line-2 bg-label px-2.5 py-0.5 hover:border-ink-3"
      >
        <span>{shown(value)}</span>
        <ChevronDown size={13} className="text-ink-3" aria-hidden="true" />
      </ListboxButton>
      <ListboxOptions
        anchor={{ to: 'bottom end', gap: 3 }}
        className="z-30 max-h-72 min-w-36 overflow-auto border border-line-2 bg-label py-1 text-ink shadow-slip outline-none"
      >
        {options.map((option) => (
          <ListboxOption
            key={option}
            value={option}
            className="group flex cursor-pointer items-center gap-2 px-2.5 py-1 data-focus:bg-wash"
          >
            <Check size={13} className="invisible group-data-selected:visible" aria-hidden="true" />
            {shown(option)}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}
