/**
 * As many letters of a name stand on a map: whatever PostgreSQL (4.1.1) and MariaDB (“Identifier Names”) can have, so that none is
 * cut but what somebody made up.
 */
const MOST_OF_NAME = 64;
/** As many of what is told of a line. */
const MOST_OF_DETAIL = 40;

/** A name as a map has it: a longer one is cut, so that no label is wider than all others together. */
export function nameOnMap(name: string): string {
  return cut(name, MOST_OF_NAME);
}

/** What is told of a line, as a map has it. */
export function detailOnMap(detail: string): string {
  return cut(detail, MOST_OF_DETAIL);
}

function cut(text: string, most: number): string {
  if (text.length <= most) return text;
  // No sign is cut in two.
  return `${Array.from(text.slice(0, most)).slice(0, -1).join('')}…`;
}
