/** The longest value that is shown of an answer. */
const LONGEST = 60;

/**
 * The first place at which two answers differ, in the order of the first; null where they are equal.
 *
 * @returns a path such as `[3].loans[0].due_on`, and what stands there in each
 */
export function firstDifference(one: unknown, other: unknown, path = ''): string | null {
  if (Object.is(one, other)) return null;
  if (Array.isArray(one) && Array.isArray(other)) {
    for (let at = 0; at < Math.max(one.length, other.length); at++) {
      const found = firstDifference(one[at], other[at], `${path}[${at}]`);
      if (found !== null) return found;
    }
    return null;
  }
  if (isObject(one) && isObject(other)) {
    for (const name of new Set([...Object.keys(one), ...Object.keys(other)])) {
      const found = firstDifference(own(one, name), own(other, name), `${path}.${name}`);
      if (found !== null) return found;
    }
    return null;
  }
  return `${path}: ${shown(one)}, and ${shown(other)}`;
}

/** What stands under a name; nothing where only the language itself has something of this name. */
function own(object: Readonly<Record<string, unknown>>, name: string): unknown {
  return Object.hasOwn(object, name) ? object[name] : undefined;
}

function isObject(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function shown(value: unknown): string {
  const text = value === undefined ? 'nothing' : JSON.stringify(value);
  return text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text;
}
