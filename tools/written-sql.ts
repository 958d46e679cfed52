/**
 * Writes the SQL of everything that the program asks of rows, for many texts in every dialect: `npx tsx tools/written-sql.ts FILE`.
 * Written before a change of the house and after it, the two files say what the change did to what engines are asked.
 */

import { once } from 'node:events';
import { createWriteStream, readdirSync, readFileSync } from 'node:fs';
import fc from 'fast-check';
import { browse, countsByRole, shownEntity } from '../core/browse/index.js';
import { cardsOf } from '../core/cards/index.js';
import { rowQuestions } from '../core/checks/index.js';
import { type Design, readDesign } from '../core/design/index.js';
import { dialects } from '../core/dialects/index.js';
import { type Entity, entityOf, type Model, type Query } from '../core/model/index.js';
import { type LoadPlan, PlanTooLarge, planQuery, type QueryPlan } from '../core/plan/index.js';
import { profileStatements } from '../core/profile/index.js';
import { everything } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';

const [file = 'written.sql', cases = '300'] = process.argv.slice(2);
const SEED = 15;
const out = createWriteStream(file);
const NO_SPAN = { start: 0, end: 0 };
const NOTHING = {
  name: null,
  parameters: [],
  where: [],
  orderBy: [],
  limit: null,
  offset: null,
  loads: [],
  cardinality: 'many' as const,
  note: null,
  span: NO_SPAN,
};

let statements = 0;

async function write(what: string, sql: readonly string[]): Promise<void> {
  statements += sql.length;
  if (!out.write(`-- ${what}\n${sql.join(';\n')}\n\n`)) await once(out, 'drain');
}

/** The statements of a plan: of its rows, and of each load. */
function statementsOf({ dialect }: Design, plan: QueryPlan): string[] {
  const ofLoads = (loads: readonly LoadPlan[]): string[] =>
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

function askedOf(design: Design, text: string, keysHold: boolean): string[] {
  const { query, findings } = design.queryOf(text);
  if (query === null) return [`/* ${findings.map(({ message }) => message).join(' ')} */`];
  return planned(design, design.model, query, keysHold);
}

function planned(design: Design, model: Model, query: Query, keysHold: boolean, rowKeys = false): string[] {
  try {
    return statementsOf(design, planQuery(model, query, { dialect: design.dialect, keysHold, rowKeys }));
  } catch (error) {
    if (error instanceof PlanTooLarge) return ['/* too large */'];
    throw error;
  }
}

async function ofEntity(design: Design, entity: Entity, keysHold: boolean): Promise<void> {
  const { model, dialect } = design;
  const options = { dialect, keysHold };
  const look = (via: { entity: string; key: string; role: string } | null) => {
    const { keys, rows, placed, pivotFields } = browse(
      model,
      { entity: entity.name, where: [], orderBy: [], via },
      1000,
      options,
    );
    const pivots = pivotFields(['1', '2']);
    return [
      dialect.printQuery(keys.select),
      ...(via === null ? statementsOf(design, rows) : []),
      ...statementsOf(design, placed(100, 50)),
      ...(pivots === null ? [] : statementsOf(design, pivots)),
    ];
  };
  await write(`rows of ${entity.name}`, look(null));
  for (const { name, target } of [...entity.roles, ...entity.paths])
    for (const other of [target]) {
      try {
        const { keys } = browse(
          model,
          { entity: other, where: [], orderBy: [], via: { entity: entity.name, key: '1', role: name } },
          1000,
          options,
        );
        const { pivotFields } = browse(
          model,
          { entity: other, where: [], orderBy: [], via: { entity: entity.name, key: '1', role: name } },
          1000,
          options,
        );
        const pivots = pivotFields(['1', '2']);
        await write(`rows over ${entity.name}.${name}`, [
          dialect.printQuery(keys.select),
          ...(pivots === null ? [] : statementsOf(design, pivots)),
        ]);
      } catch (error) {
        await write(`rows over ${entity.name}.${name}`, [`/* ${String(error)} */`]);
      }
    }
  await write(
    `counts of ${entity.name}`,
    countsByRole(model, entity.name, options).map(({ role, select }) => `/* ${role} */ ${dialect.printQuery(select)}`),
  );
  await write(
    `count of ${entity.name}`,
    planned(design, model, { ...NOTHING, entity: entity.name, cardinality: 'count' }, keysHold),
  );
  const shown = { ...model, entities: new Map(model.entities).set(entity.name, shownEntity(entity)) };
  const limit = { kind: 'value' as const, value: '201', type: { kind: 'integer' as const }, span: NO_SPAN };
  const { orderBy } = entityOf(model, entity.name);
  await write(
    `choices of ${entity.name}`,
    planned(design, shown, { ...NOTHING, entity: entity.name, orderBy, limit }, keysHold, true),
  );
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
    for (const keysHold of [true, false]) {
      await write(`=== ${name} ${dialect} ${keysHold ? 'keys hold' : ''}`, []);
      for (const query of model.queries.values()) await write(`query ${query.name}`, planned(design, model, query, keysHold));
      for (const query of [...everything({ design }), ...Array.from(model.entities.values()).flatMap(cutsOf)])
        await write(query.replace(/\n/g, ' ; '), askedOf(design, query, keysHold));
      for (const entity of model.entities.values()) await ofEntity(design, entity, keysHold);
    }
    for (const card of cardsOf(design))
      if ('joins' in card)
        await write(
          `joins of ${card.name}`,
          (card.joins as readonly { sql: string }[]).map(({ sql }) => sql),
        );
    for (const relation of model.relations.values())
      await write(
        `profile of ${relation.name}`,
        profileStatements(model, relation, design.dialect.values).map(({ select }) => design.dialect.printQuery(select)),
      );
    for (const { code, span, screen, count, examples } of rowQuestions(model, design))
      await write(
        `${code} at ${span.start}`,
        [screen, count, examples].flatMap((asked) => (asked === null ? [] : [design.dialect.printQuery(asked.select)])),
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
