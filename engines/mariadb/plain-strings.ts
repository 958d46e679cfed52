/**
 * SQL of the catalogue with its quotes doubled, as the standard has it (SQL:2016, 5.3): the server writes them behind a backslash
 * (MariaDB, “String Literals”), which nobody else reads as that. A backslash of the text itself stays as it is written there.
 */
export function plainStrings(sql: string): string {
  return sql.replace(
    /'((?:[^'\\]|\\[\s\S]|'')*)'/g,
    (_whole, text: string) => `'${text.replace(/\\(['"])/g, (_, quote: string) => (quote === "'" ? "''" : '"'))}'`,
  );
}
