/** So many placeholders one statement can have on both servers, which count them in 16 bits. */
const MOST_PLACEHOLDERS = 65_535;
const MOST_ROWS = 500;

/** How many rows of so many columns one insert on a server is given: a row on each trip there would wait for the trip. */
export function rowsInOneInsert(columns: number): number {
  return columns === 0 ? 1 : Math.max(1, Math.min(MOST_ROWS, Math.floor(MOST_PLACEHOLDERS / columns)));
}
