import pluralize from 'pluralize';

/** PostgreSQL cuts identifiers at 63 bytes; a name that fits there fits everywhere. */
const LONGEST_NAME = 63;

/** `StringInstrument` → `string_instrument`. */
export function snakeCase(name: string): string {
  return name
    .replace(/([a-z0-9])([A-Z])/g, '$1_$2')
    .replace(/(?<=[A-Z])(?=[A-Z][a-z])/g, '_')
    .toLowerCase();
}

/** The plural of the last word of a snake_case name. */
export function plural(name: string): string {
  return inLastWord(name, pluralize.plural);
}

/** The singular of the last word of a snake_case name. */
export function singular(name: string): string {
  return inLastWord(name, pluralize.singular);
}

/** How long a word can be whose plural anybody knows. */
const LONGEST_WORD = 64;

/** Changes the end of a name; the rules are tried at each letter, so only so many are looked at. */
function inLastWord(name: string, change: (word: string) => string): string {
  if (name.length <= LONGEST_WORD) return change(name);
  return name.slice(0, -LONGEST_WORD) + change(name.slice(-LONGEST_WORD));
}

/** `string_instrument` → `StringInstrument`. */
export function capitalCase(name: string): string {
  const words = name.split(/[^A-Za-z0-9]+/).filter((word) => word !== '');
  return words.map((word) => (word[0] ?? '').toUpperCase() + word.slice(1)).join('');
}

/** A generated name that fits every engine: cut, and told apart by a hash, where it is over 63 bytes. */
export function generatedName(...parts: readonly string[]): string {
  const name = parts.join('_');
  // Of letters without accents each is one byte.
  if (name.length <= LONGEST_NAME && /^[\x00-\x7f]*$/.test(name)) return name;
  const bytes = new TextEncoder().encode(name);
  if (bytes.length <= LONGEST_NAME) return name;
  let cut = name.slice(0, LONGEST_NAME);
  while (new TextEncoder().encode(cut).length > LONGEST_NAME - 9) cut = cut.slice(0, -1);
  return `${cut}_${hash(name).toString(16).padStart(8, '0')}`;
}

/** A stable 32-bit hash of a text (FNV-1a). */
export function hash(text: string): number {
  let value = 0x811c9dc5;
  for (let index = 0; index < text.length; index++) {
    value ^= text.charCodeAt(index);
    value = Math.imul(value, 0x01000193);
  }
  return value >>> 0;
}
