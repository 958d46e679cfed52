import type { Design } from '../core/design/index.js';
import { wallsAsScript } from '../services/index.js';

/** Prints the walls of a text as its database can hold them, and above them what it cannot say. @throws where it cannot hold them */
export function printWalls(design: Design, how: 'views' | 'policies'): void {
  const made = wallsAsScript(design, how);
  if ('problem' in made) throw new Error(made.problem);
  process.stdout.write(made.notes.map((note) => `-- ${note}\n`).join(''));
  for (const statement of made.statements) process.stdout.write(`\n${design.dialect.ended(statement)}\n`);
}
