import type { Design } from '../core/design/index.js';
import { wallsAsViews } from '../services/index.js';

/** Prints the walls of a text as views of its database, and above them what views cannot say. @throws where they cannot be views */
export function printViews(design: Design): void {
  const made = wallsAsViews(design);
  if ('problem' in made) throw new Error(made.problem);
  process.stdout.write(made.notes.map((note) => `-- ${note}\n`).join(''));
  for (const statement of made.statements) process.stdout.write(`\n${design.dialect.ended(statement)}\n`);
}
