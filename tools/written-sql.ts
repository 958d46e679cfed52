/**
 * Writes the SQL of everything that the program asks of rows, for many texts in every dialect: `npx tsx tools/written-sql.ts FILE`.
 * Written before a change of the house and after it, the two files say what the change did to what engines are asked.
 */

import { once } from 'node:events';
import { createWriteStream, readdirSync, readFileSync } from 'node:fs';
import fc from 'fast-check';
import { browse, choicesOf, countOf, countsByRole } from '../core/browse/index.js';
import { cardsOf } from '../core/cards/index.js';
import { rowQuestions } from '../core/checks/index.js';
import { type Design, readDesign } from '../core/design/index.js';
import { dialects } from '../core/dialects/index.js';
import { type Compiled, type CompiledLoad, compile } from '../core/load/compile/index.js';
import type { Entity, Query } from '../core/model/index.js';
import { PlanTooLarge, planQuery, type QueryPlan } from '../core/plan/index.js';
import { profilePlans } from '../core/profile/index.js';
import { SYSTEM, weave } from '../core/walls/index.js';
import { everything } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';

const [file = 'written.sql', cases = '300'] = process.argv.slice(2);
const SEED = 15;
const out = createWriteStream(file);
let statements = 0;

async function write(what: string, sql: readonly string[]): Promise<void> {
  statements += sql.length;
  if (!out.write(`-- ${what}\n${sql.join(';\n')}\n\n`)) await once(out, 'drain');
}

/** The statements of a plan: of its rows, and of each load. */
function statementsOf({ dialect }: Design, plan: Compiled): string[] {
  const ofLoads = (loads: readonly CompiledLoad[]): string[] =>
    loads.flatMap((load) => [
      `/* ${load.path} by ${load.ownerColumns.join()} = ${load.stitchColumns.join()} */ ${dialect.printQuery(load.select)}`,
      ...ofLoads(load.loads),
    ]);
  const outputs = plan.outputs.map(
    ({ as, name, pivot, kinds }) => `${as}>${pivot ?? ''}.${name ?? ''}${kinds === null ? '' : `(${kinds.join()})`}`,
  );
  const bound = plan.bindings.map(({ name, type }) => `:${name} ${type.kind}`);
  return [`/* ${[...outputs, ...bound].join(' ')} */ ${dialect.printQuery(plan.select)}`, ...ofLoads(plan.loads)];
}

function compiledOf({ model, dialect }: Design, plan: QueryPlan, madeHere: boolean): Compiled {
  return compile(weave(plan, SYSTEM), { model, dialect, madeHere });
}

function askedOf(design: Design, text: string, madeHere: boolean): string[] {
  const { query, findings } = design.queryOf(text);
  if (query === null) return [`/* ${findings.map(({ message }) => message).join(' ')} */`];
  return planned(design, query, madeHere);
}

function planned(design: Design, query: Query, madeHere: boolean): string[] {
  try {
    return statementsOf(design, compiledOf(design, planQuery(design.model, query), madeHere));
  } catch (error) {
    if (error instanceof PlanTooLarge) return ['/* too large */'];
    throw error;
  }
}

async function ofEntity(design: Design, entity: Entity, madeHere: boolean): Promise<void> {
  const { model, dialect } = design;
  const written = (plan: QueryPlan) => statementsOf(design, compiledOf(design, plan, madeHere));
  const keysOf = (plan: QueryPlan) => dialect.printQuery(compiledOf(design, plan, madeHere).select);
  const { keys, rows, placed } = browse(model, { entity: entity.name, where: [], orderBy: [], via: null });
  await write(`rows of ${entity.name}`, [keysOf(keys), ...written(rows), ...written(placed(100, 50))]);
  for (const { name, target } of [...entity.roles, ...entity.paths]) {
    try {
      const via = { entity: entity.name, key: '1', role: name };
      const over = browse(model, { entity: target, where: [], orderBy: [], via });
      const pivots = over.pivotFields(['1', '2']);
      await write(`rows over ${entity.name}.${name}`, [keysOf(over.keys), ...(pivots === null ? [] : written(pivots))]);
    } catch (error) {
      await write(`rows over ${entity.name}.${name}`, [`/* ${String(error)} */`]);
    }
  }
  await write(
    `counts of ${entity.name}`,
    compiledOf(design, countsByRole(model, entity.name), madeHere).loads.map(
      ({ role, branch, entity: target, select }) =>
        `/* ${branch ? `${role} as ${target}` : role} */ ${dialect.printQuery(select)}`,
    ),
  );
  await write(`count of ${entity.name}`, written(countOf(model, entity.name)));
  await write(`choices of ${entity.name}`, written(choicesOf(model, entity.name, 201)));
}

/** How an entity's rows are cut, counted and taken apart. */
function cutsOf({ name, roles, key }: Entity): string[] {
  const from = `from ${name}\n`;
  const [field] = key.fields;
  const named =
    field === undefined
      ? []
      : roles.map((role) => `${from}load ${role.name} (${key.fields.length === 1 && role.target === name ? field.name : ''})`);
  return [
    `${from}limit 5`,
    `${from}limit 5\noffset 2`,
    `${from}first`,
    `${from}one`,
    `${from}limit 3\ncount`,
    ...named.filter((query) => !query.endsWith('()')),
  ];
}

async function ofDesign(name: string, text: string): Promise<void> {
  for (const dialect of Object.keys(dialects) as (keyof typeof dialects)[]) {
    const design = readDesign(text, dialect);
    const { model } = design;
    for (const madeHere of [true, false]) {
      await write(`=== ${name} ${dialect} ${madeHere ? 'keys hold' : ''}`, []);
      for (const query of model.queries.values()) await write(`query ${query.name}`, planned(design, query, madeHere));
      for (const query of [...everything({ design }), ...Array.from(model.entities.values()).flatMap(cutsOf)])
        await write(query.replace(/\n/g, ' ; '), askedOf(design, query, madeHere));
      for (const entity of model.entities.values()) await ofEntity(design, entity, madeHere);
    }
    for (const card of cardsOf(design))
      if ('joins' in card)
        await write(
          `joins of ${card.name}`,
          (card.joins as readonly { sql: string }[]).map(({ sql }) => sql),
        );
    const asked = (plan: QueryPlan) => design.dialect.printQuery(compiledOf(design, plan, false).select);
    for (const relation of model.relations.values())
      await write(
        `profile of ${relation.name}`,
        profilePlans(model, relation).map(({ plan }) => asked(plan)),
      );
    for (const { code, span, screen, count, examples } of rowQuestions(model, design))
      await write(
        `${code} at ${span.start}`,
        [screen, count, examples].flatMap((plan) => (plan === null ? [] : [asked(plan)])),
      );
  }
}

const files = [
  ['the demo', 'demo/library.kin'],
  ['apiary', 'tests/apiary.kin'],
  ['the notation’s sample', 'tests/notation-sample.kin'],
  ...readdirSync('tests/forms').map((form) => [form, `tests/forms/${form}`] as const),
] as const;
for (const [name, path] of files) await ofDesign(name, readFileSync(path, 'utf8'));
const texts = fc.sample(arbitraryTree, { seed: SEED, numRuns: Number(cases) });
for (const [index, text] of texts.entries()) await ofDesign(`random ${index + 1}`, text);
out.end();
await once(out, 'finish');
process.stdout.write(`${statements} statements.\n`);
