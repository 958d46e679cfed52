import { readDesign } from '../core/design/index.js';
import type { ImpactGroup } from '../core/impact/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type Foretold, foretellDelete, nowOf } from '../services/index.js';
import { actorGiven } from './actor.js';
import { openGiven } from './place.js';
import { printFindings, readText } from './report.js';

export interface ImpactFlags {
  readonly db: string;
  readonly schema?: readonly string[];
  readonly rows: number;
  readonly json?: boolean;
  readonly log?: boolean;
  readonly as?: string;
  readonly timeout: number;
}

/** Tells what a delete reaches; it ends with 1 where the delete would be refused, or its rows cannot be told. */
export async function impactOnDatabase(file: string, rows: string, options: ImpactFlags): Promise<void> {
  const text = await readText(file);
  const { engine, close } = await openGiven(options.db, options.timeout * 1000);
  try {
    const design = readDesign(text, engine.dialect);
    const now = nowOf(design.model, await engine.wasMadeHere());
    const sampleKeys = namedKeys(design.model, nowOf(design.model, true));
    const schemas = options.schema ?? null;
    const as = options.as === undefined ? {} : { as: actorGiven(design, options.as) };
    const told = await foretellDelete(design, engine, { rows, sampleKeys, now, schemas, looks: options.rows, ...as });
    if (options.json === true) process.stdout.write(`${JSON.stringify(asJson(told, options), null, 2)}\n`);
    else print(told, rows, options);
    if (!told.ok || told.impact.groups.some(({ effect }) => effect === 'refuses')) process.exitCode = 1;
  } finally {
    await close();
  }
}

function asJson(told: Foretold, { log }: ImpactFlags): unknown {
  if (!told.ok)
    return { problems: told.problems, findings: told.findings.map(({ weight, code, message }) => ({ weight, code, message })) };
  const { log: statements, groups, ...impact } = told.impact;
  const looked = groups.map((group, at) => ({ ...group, keys: told.looks[at]?.keys ?? [] }));
  return { ...impact, groups: looked, ...(log === true ? { log: statements } : {}) };
}

function print(told: Foretold, rows: string, { log }: ImpactFlags): void {
  if (!told.ok) {
    printFindings('rows', rows, told.findings, false, process.stderr);
    for (const problem of told.problems) process.stderr.write(`${problem}\n`);
    return;
  }
  const { impact, looks } = told;
  if (log === true) for (const { plain } of impact.log) process.stderr.write(`${plain};\n\n`);
  if (impact.rows.length === 0) process.stdout.write('No row is meant.\n');
  for (const { entity, rows: many } of impact.rows)
    process.stdout.write(`${counted(many, 'row')} of ${entity} would be deleted.\n`);
  impact.groups.forEach((group, at) => {
    const indent = '  '.repeat(group.generation);
    const { keys = [] } = looks[at] ?? {};
    const shown = keys.length === 0 ? '' : ` (${keys.map(String).join(', ')}${keys.length < group.rows ? ', …' : ''})`;
    process.stdout.write(`${indent}${groupText(group)}${shown}\n`);
  });
  if (impact.rows.length > 0 && impact.groups.length === 0) process.stdout.write('Nothing else is touched.\n');
  for (const { table, trigger } of impact.unforeseen)
    process.stdout.write(
      `Not told: the trigger ${trigger} of ${table} was written by others. Rehearse the delete to see what it does.\n`,
    );
}

function counted(rows: number, what: string): string {
  return `${rows.toLocaleString('en')} ${what}${rows === 1 ? '' : 's'}`;
}

const EFFECTS: Readonly<Record<ImpactGroup['effect'], string>> = {
  'goes along': 'goes along',
  'is emptied': 'emptied',
  'gets its default': 'gets its default',
  refuses: 'refuses',
  'may refuse': 'may refuse, as the engine takes one before the other',
  stays: 'left behind, pointing at nothing',
};

function groupText({ effect, of, over, rows, ways, by }: ImpactGroup): string {
  const through =
    ways.length > 0 ? ways.map((way) => `${way.over} ${way.rows.toLocaleString('en')}`).join(', ') : over.join(', ');
  const rule = by === '' || effect === 'goes along' ? '' : `, by ${by}`;
  return `${EFFECTS[effect]}: ${counted(rows, 'row')} of ${of}, over ${through}${rule}`;
}
