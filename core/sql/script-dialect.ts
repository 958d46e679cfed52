/** Signs by which a script is known; none looks over the end of a line for where a line begins, which would take long in blank ones. Each with how much it says. */
const SIGNS: readonly { readonly dialect: 'postgres' | 'mariadb' | 'sqlite'; readonly weight: number; readonly sign: RegExp }[] =
  [
    {
      dialect: 'postgres',
      weight: 3,
      sign: /^[ \t]*(set\s+search_path|select\s+pg_catalog\.|copy\s+[\w."]+.*\sfrom\s+stdin|create\s+extension)/im,
    },
    {
      dialect: 'postgres',
      weight: 2,
      sign: /\b(big|small)?serial\b|\btimestamptz\b|\bbytea\b|\bjsonb\b|\bwith(out)?\s+time\s+zone\b|\$\w*\$|::\w+/i,
    },
    {
      dialect: 'postgres',
      weight: 1,
      sign: /\bgenerated\s+(always|by\s+default)\s+as\s+identity\b|\bnextval\s*\(|\bcreate\s+(type|domain|sequence)\b/i,
    },
    { dialect: 'mariadb', weight: 3, sign: /\)\s*engine\s*=|^[ \t]*delimiter\s|\/\*!\d{5}|\/\*M!/im },
    { dialect: 'mariadb', weight: 2, sign: /\bauto_increment\b|`\w+`|\bunsigned\b|\bdefault\s+charset\b/i },
    { dialect: 'mariadb', weight: 1, sign: /\b(medium|long)(text|blob|int)\b|\benum\s*\(/i },
    { dialect: 'sqlite', weight: 3, sign: /^[ \t]*pragma\b|\bautoincrement\b|\bwithout\s+rowid\b|\bsqlite_/im },
  ];

/** The dialect that a script was most likely written for; SQLite where nothing tells. */
export function dialectOfScript(script: string): 'postgres' | 'mariadb' | 'sqlite' {
  const points = { sqlite: 0.5, postgres: 0, mariadb: 0 };
  for (const { dialect, weight, sign } of SIGNS) if (sign.test(script)) points[dialect] += weight;
  const [most] = (['sqlite', 'postgres', 'mariadb'] as const).toSorted((a, b) => points[b] - points[a]);
  return most ?? 'sqlite';
}
