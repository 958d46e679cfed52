import { createInterface } from 'node:readline/promises';
import { type Design, statedSqlOf } from '../core/design/index.js';

/**
 * Shows the SQL that a text states before it is run, and asks for a yes: at the terminal, or by the option `--agree`.
 *
 * @param where the database in which it would be run
 * @param powers what its login could do beyond it; null for no more than others
 * @throws with words for a person, where nobody says yes
 */
export async function agreeToSql(design: Design, where: string, powers: string | null, agreed: boolean): Promise<void> {
  const stated = statedSqlOf(design.model, design.dialect.name);
  if (stated.length === 0) return;
  const { stderr, stdin } = process;
  stderr.write(`The text states SQL of its own, which would be run on ${where}:\n`);
  for (const { sql, span, reaches } of stated) {
    const line = design.text.slice(0, span.start).split('\n').length;
    stderr.write(`\nline ${line}${reaches.length === 0 ? '' : `  ✕ ${reaches.join('; ')}`}\n${sql.replace(/^/gm, '  ')}\n`);
  }
  if (powers !== null) stderr.write(`\n✕ The login ${powers}. What stands above could do the same in its name.\n`);
  stderr.write('\n');
  if (agreed) return;
  if (!stdin.isTTY) throw new Error('Nothing was made. Read this SQL, and add --agree to have it run.');
  const asking = createInterface({ input: stdin, output: stderr });
  const answer = await asking.question('Run it? Write yes: ');
  asking.close();
  if (answer.trim().toLowerCase() !== 'yes') throw new Error('Nothing was made.');
}
