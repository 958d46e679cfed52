/** What is said where a statement computes a number that its engine cannot hold. */
export function beyondNumbers(label: string): string {
  return `${label}: the statement computes a number beyond what it can hold, as a whole number of more than 64 bits. Leave out the rows that it is too much for, or compute less.`;
}
