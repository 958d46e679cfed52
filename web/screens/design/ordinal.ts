/** 1st, 2nd, 3rd, 4th: the names of generations. */
export function ordinal(number: number): string {
  const ending =
    number % 10 === 1 && number !== 11
      ? 'st'
      : number % 10 === 2 && number !== 12
        ? 'nd'
        : number % 10 === 3 && number !== 13
          ? 'rd'
          : 'th';
  return `${number}${ending}`;
}
