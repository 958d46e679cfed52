import { Select } from '../../../parts/input.js';
import { NothingInput } from './nothing-input.js';
import type { Wish } from './use-import.js';

const THERE: Readonly<Record<Wish['there'], string>> = {
  refuse: 'is refused',
  skip: 'leaves it as it is',
  update: 'changes it',
};

/** What is done with the lines of a file, beside what its columns are. */
export function ImportOptions({ wish, onSay }: { readonly wish: Wish; onSay(wish: Partial<Wish>): void }) {
  const { nothing, there, match, uses, goodOnes } = wish;
  const members = Array.from(new Set(uses.filter((use) => use !== 'left out' && use !== 'the kind').map(memberOf)));
  return (
    <fieldset className="flex flex-wrap items-center gap-x-5 gap-y-2">
      <legend className="sr-only">What is done with the lines</legend>
      <NothingInput value={nothing} onType={(typed) => onSay({ nothing: typed })} />
      <label className="flex items-center gap-2">
        <span className="text-ink-2">A line whose row is there</span>
        <Select value={there} onChange={(event) => onSay({ there: event.target.value as Wish['there'] })}>
          {Object.entries(THERE).map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </Select>
      </label>
      {there !== 'refuse' && (
        <label className="flex items-center gap-2">
          <span className="text-ink-2">It is the same by</span>
          <Select
            code
            value={match[0] ?? ''}
            onChange={(event) => onSay({ match: event.target.value === '' ? [] : [event.target.value] })}
          >
            <option value="">its key, or what is unique</option>
            {members.map((member) => (
              <option key={member} value={member}>
                {member}
              </option>
            ))}
          </Select>
        </label>
      )}
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={goodOnes} onChange={(event) => onSay({ goodOnes: event.target.checked })} />
        The good lines go in though others are refused
      </label>
    </fieldset>
  );
}

/** The field or the role that a use speaks of. */
function memberOf(use: string): string {
  return /^\w+/.exec(use)?.[0] ?? use;
}
