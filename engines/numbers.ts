/** The message for a number that overflows in its engine. */
export function beyondNumbers(label: string): string {
  return `${label}: the statement computes a number beyond what it can hold, as a whole number of more than 64 bits. Leave out the rows that it is too much for, or compute less.`;
}
