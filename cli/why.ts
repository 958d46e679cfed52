import { readDesign } from '../core/design/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type LineHeld, nowOf, type WallHeld, type WhySeen, whySeen } from '../services/index.js';
import { actorGiven } from './actor.js';
import { openGiven } from './place.js';
import { readText } from './report.js';

export interface WhyFlags {
  readonly db: string;
  readonly as: string;
  readonly json?: boolean;
  readonly timeout: number;
}

/** Tells why an actor sees a row and may change it, or not, line by line of each wall; it ends with 1 where the row is not seen. */
export async function whyOnDatabase(file: string, row: string, options: WhyFlags): Promise<void> {
  const text = await readText(file);
  const { engine, close } = await openGiven(options.db, options.timeout * 1000);
  try {
    const design = readDesign(text, engine.dialect);
    const now = nowOf(design.model, await engine.wasMadeHere());
    const sampleKeys = namedKeys(design.model, nowOf(design.model, true));
    const actor = actorGiven(design, options.as);
    const named = design.rowOf(row);
    if (named.row === null) throw new Error(named.findings[0]?.message ?? `${row}: name a row by its key, as in Loan(7).`);
    const told = await whySeen({ design, engine, sampleKeys, madeHere: false }, named.row, actor, { now });
    if (!told.ok) throw new Error(told.problem.message);
    const lineOf = ({ span }: Pick<WallHeld, 'span'>) => text.slice(0, span.start).split('\n').length;
    if (options.json === true) {
      const walls = told.value.walls.map(({ span, ...wall }) => ({ ...wall, line: lineOf({ span }) }));
      process.stdout.write(`${JSON.stringify({ row, as: options.as, ...told.value, walls }, null, 2)}\n`);
    } else print(told.value, `${row}, as ${options.as}`, lineOf);
    if (!told.value.seen) process.exitCode = 1;
  } finally {
    await close();
  }
}

function print({ there, seen, changed, walls }: WhySeen, subject: string, lineOf: (wall: WallHeld) => number): void {
  if (!there) {
    process.stdout.write(`${subject}: there is no such row.\n`);
    return;
  }
  const verdict = seen ? (changed ? 'seen, and may be changed' : 'seen, and may not be changed') : 'not seen';
  process.stdout.write(`${subject}: ${verdict}.\n`);
  if (walls.length === 0) process.stdout.write('  No wall stands on it.\n');
  for (const wall of walls) {
    const { name, reads, writes, free, unless, lines } = wall;
    const on = reads && writes ? '' : reads ? ' on read' : ' on write';
    process.stdout.write(
      `  wall ${name}${on}, line ${lineOf(wall)}${free ? `: free of it, by unless ${unless.join(', or ')}` : ''}\n`,
    );
    for (const line of lines) process.stdout.write(printed(line));
  }
}

function printed({ text, value, parts }: LineHeld): string {
  const verdict = value === null ? 'unknown, which lets nothing through' : String(value);
  const values = parts.map((part) => `      ${part.text} is ${part.value === null ? 'null' : JSON.stringify(part.value)}\n`);
  return `    ${text}: ${verdict}\n${values.join('')}`;
}
