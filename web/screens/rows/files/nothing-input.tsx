import { Input } from '../../../parts/input.js';

/** The text that stands for nothing in a file. */
export function NothingInput({ value, onType }: { readonly value: string; onType(typed: string): void }) {
  return (
    <label className="flex items-center gap-2">
      <span className="text-ink-2">Nothing is written as</span>
      <Input code className="w-20" value={value} placeholder="(empty)" onChange={(event) => onType(event.target.value)} />
    </label>
  );
}
