import fc from 'fast-check';
import { readDesign } from '../core/design/index.js';
import type { Entity, Model } from '../core/model/index.js';

/** A key of two fields. */
const COMPOSITE = 'composite';

/** A text of the notation with entities, constraints and relations of every form that is built. */
export const arbitraryTree: fc.Arbitrary<string> = fc
  .record({
    entities: fc.array(
      fc.record({
        key: fc.constantFrom('integer', 'bigint', 'uuid', 'text(20)', COMPOSITE),
        fields: fc.array(
          fc.record({
            type: fc.constantFrom(
              'integer',
              'bigint',
              'decimal(6, 2)',
              'decimal(30, 4)',
              'real',
              'boolean',
              'text',
              'text(40)',
              'date',
              'time',
              'timestamp',
              'uuid',
              'json',
              'bytes',
              'Shade',
            ),
            optional: fc.boolean(),
            unique: fc.boolean(),
            byDefault: fc.boolean(),
          }),
          { maxLength: 6 },
        ),
        group: fc.boolean(),
        check: fc.boolean(),
        quoted: fc.boolean(),
      }),
      { minLength: 1, maxLength: 5 },
    ),
    relations: fc.array(
      fc.record({
        form: fc.constantFrom('many', 'many at most', 'one', 'pivot', 'symmetric', 'repeats'),
        from: fc.nat(4),
        to: fc.nat(4),
        rule: fc.constantFrom('cascade', 'restrict', 'no action', ''),
        follows: fc.constantFrom(false, false, true),
      }),
      { maxLength: 7 },
    ),
    families: fc.array(
      fc.record({
        storage: fc.constantFrom('single table by sort', 'joined tables by sort', 'separate tables', 'json more by sort'),
        abstract: fc.boolean(),
        kinds: fc.integer({ min: 1, max: 3 }),
        deep: fc.boolean(),
        pointsAt: fc.nat(4),
        pointedAt: fc.boolean(),
        ofKind: fc.boolean(),
      }),
      { maxLength: 2 },
    ),
    several: fc.array(
      fc.record({
        form: fc.constantFrom('type and id', 'without triggers', 'one of', 'pivot', 'pivot of keys'),
        holder: fc.nat(4),
        required: fc.boolean(),
        back: fc.constantFrom('many', 'at most one', ''),
        rule: fc.constantFrom('cascade', 'restrict', ''),
        follows: fc.boolean(),
      }),
      { maxLength: 2 },
    ),
    pairs: fc.boolean(),
    given: fc.boolean(),
    walks: fc.array(
      fc.record({
        start: fc.nat(50),
        hops: fc.array(fc.record({ role: fc.nat(50), kind: fc.nat(8) }), { minLength: 1, maxLength: 3 }),
        first: fc.boolean(),
      }),
      { maxLength: 4 },
    ),
  })
  .map(({ entities, relations, families, several, pairs, given, walks }) => {
    const blocks = [`tree 'Generated'\n  clock '2031-04-12 09:00'`, `choice Shade\n  'light'\n  'it''s dark'`];
    entities.forEach((entity, index) => {
      const table = entity.quoted ? `"Order ${index}"` : `things_${index}`;
      const lines = [
        `entity Thing${index} in ${table}`,
        `  ${entity.key === COMPOSITE ? 'number bigint\n  code text(12)\n  key (number, code)' : `id ${entity.key} key`}`,
      ];
      entity.fields.forEach((field, position) => {
        const unique = field.unique && !['boolean', 'json', 'bytes', 'Shade'].includes(field.type) ? ' unique' : '';
        const byDefault = field.byDefault && unique === '' ? defaultFor(field.type) : '';
        lines.push(
          `  ${position === 0 && entity.quoted ? `"from ${position}"` : `field_${position}`} ${field.type}${field.optional ? ' optional' : ''}${unique}${byDefault}`,
        );
      });
      const second = entity.fields.length > 1 ? 'field_1' : null;
      if (entity.group && second !== null) lines.push(`  index (${second})`);
      if (entity.check && entity.fields[1]?.type === 'integer') lines.push('  check small: field_1 < 1000 and field_1 <> 13');
      blocks.push(lines.join('\n'));
    });
    relations.forEach(({ form, from, to, rule, follows }, index) => {
      const a = `Thing${from % entities.length}`;
      const b = `Thing${to % entities.length}`;
      const composite = (name: number) => entities[name % entities.length]?.key === COMPOSITE;
      const columns = (name: number, stem: string) => (composite(name) ? `(${stem}_number, ${stem}_code)` : `${stem}_id`);
      const rules = rulesOf(rule, follows);
      const up = `up_${index}`;
      const down = `down_${index}`;
      // Keys that must be there lead one way only, so that a first row can be put in.
      const knows = from % entities.length <= to % entities.length || form === 'many at most' ? 'at most one' : 'one';
      if (form === 'symmetric') blocks.push(`relation kin_${index}\n  ${a} knows many ${a} as ${up}, both ways`);
      else if (form === 'pivot' || form === 'repeats') {
        const repeats = form === 'repeats' ? ' repeats' : '';
        blocks.push(
          `relation kin_${index}\n  ${a} knows many ${b} as ${up}\n  ${b} knows many ${a} as ${down}\n  stored in table pairs_${index} (${columns(from, 'first')}, ${columns(to, 'second')})${repeats}\n    weight  integer default 1${rules}`,
        );
      } else {
        const back = form === 'one' ? 'at most one' : 'many';
        const store = form === 'one' ? `\n  stored in ${a}.${columns(to, up)} as ${up}` : '';
        blocks.push(
          `relation kin_${index}\n  ${a} knows ${knows} ${b} as ${up}\n  ${b} knows ${back} ${a} as ${down}${store}${rules}`,
        );
      }
    });
    const plain = entities.flatMap(({ key }, index) => (key === COMPOSITE ? [] : [`Thing${index}`]));
    blocks.push(...families.flatMap((family, index) => familyOf(family, index, entities.length)));
    const targets = [...plain, ...families.map((_, index) => `Base${index}`)];
    blocks.push(...several.flatMap((one, index) => severalOf(one, index, plain, targets)));
    if (pairs) blocks.push(...pairsOf);
    if (given) blocks.push(...givenOf);
    const { model } = readDesign(`${blocks.join('\n\n')}\n`);
    blocks.push(...walks.flatMap((walk, index) => pathOf(model, walk, index)));
    return `${blocks.join('\n\n')}\n`;
  });

interface Walk {
  readonly start: number;
  readonly hops: readonly { readonly role: number; readonly kind: number }[];
  readonly first: boolean;
}

/** A path over any roles of a model, now and then narrowed to a kind. */
function pathOf(model: Model, { start, hops, first }: Walk, index: number): string[] {
  const pick = <T>(items: readonly T[], at: number) => items[at % Math.max(1, items.length)];
  const owner = pick(Array.from(model.entities.values()), start);
  let here: Entity | undefined = owner;
  let walked = '';
  let many = false;
  for (const { role: at, kind } of hops) {
    const roles = [...(here?.roles ?? []), ...(here?.polymorphic ?? [])];
    const role = pick(roles, at);
    if (role === undefined) break;
    many ||= role.knows === 'many';
    walked = walked === '' ? role.name : `${walked}.${role.name}`;
    const targets: readonly string[] =
      'branches' in role
        ? role.branches.map(({ target }) => target)
        : kind > 5
          ? (model.entities.get(role.target)?.kinds?.kinds ?? [])
          : [];
    const narrowed = pick(targets, kind);
    if (narrowed !== undefined) walked = `(${walked} as ${narrowed})`;
    here = model.entities.get(narrowed ?? ('target' in role ? role.target : ''));
  }
  const [field] = here?.key.fields ?? [];
  if (owner === undefined || walked === '' || field === undefined) return [];
  return [`path ${owner.name}.walk_${index} = ${walked}${first && many ? ` order by ${field.name} desc first` : ''}`];
}

interface Family {
  readonly storage: string;
  readonly abstract: boolean;
  readonly kinds: number;
  readonly deep: boolean;
  readonly pointsAt: number;
  readonly pointedAt: boolean;
  readonly ofKind: boolean;
}

/** A base with its kinds, a kind of a kind, and relations to and from both. */
function familyOf(
  { storage, abstract, kinds, deep, pointsAt, pointedAt, ofKind }: Family,
  index: number,
  entities: number,
): string[] {
  const base = `Base${index}`;
  const target = `Thing${pointsAt % entities}`;
  const key = storage === 'separate tables' ? 'uuid' : 'integer';
  const blocks = [
    `entity ${base} in bases_${index}${abstract ? ' abstract' : ''}\n  id ${key} key\n  label_${index} text(30)\n  level integer optional\n  kinds in ${storage}\n  check near_${index}: level is null or level < 2000000000`,
  ];
  for (let kind = 0; kind < kinds; kind++) {
    const name = `Kind${index}${'ABC'[kind]}`;
    const own = `own_${index}_${kind}`;
    const extra = ['decimal(8, 2)', 'timestamp optional', 'boolean'][kind];
    blocks.push(
      `entity ${name} is ${base}${kind === 1 ? ` marked 'it''s ${kind}'` : ''}\n  ${own} text(12)\n  more_${own} ${extra}`,
    );
  }
  if (deep) blocks.push(`entity Deep${index} is Kind${index}A\n  depth_${index} integer optional\n  born_${index} date`);
  const holder = ofKind ? `Kind${index}A` : base;
  blocks.push(
    `relation family_${index}\n  ${holder} knows at most one ${target} as kin_${index}\n  ${target} knows many ${holder} as kinds_${index}`,
  );
  if (pointedAt)
    blocks.push(
      `entity Holder${index} in holders_${index}\n  id integer key`,
      `relation held_${index}\n  Holder${index} knows at most one ${base} as base\n  ${base} knows many Holder${index} as holders_${index}`,
      `relation held_kind_${index}\n  Holder${index} knows at most one Kind${index}A as kind_a\n  Kind${index}A knows many Holder${index} as kind_holders_${index}`,
      `path ${target}.reached_${index} = kinds_${index}.${ofKind ? `kind_holders_${index}` : `holders_${index}`}`,
    );
  return blocks;
}

interface Several {
  readonly form: string;
  readonly holder: number;
  readonly required: boolean;
  readonly back: string;
  readonly rule: string;
  readonly follows: boolean;
}

/** What a delete does, and whether keys that change take along what points at them. */
function rulesOf(rule: string, follows: boolean): string {
  return `${rule === '' ? '' : `\n  on delete ${rule}`}${follows ? '\n  on update cascade' : ''}`;
}

/** A polymorphic relation from an entity of its own to two others. */
function severalOf(
  { form, holder, required, back, rule, follows }: Several,
  index: number,
  plain: readonly string[],
  targets: readonly string[],
): string[] {
  const one = targets[holder % Math.max(1, targets.length)];
  const other = targets[(holder + 1) % Math.max(1, targets.length)];
  if (one === undefined || other === undefined || one === other || plain.length === 0) return [];
  const own = `Note${index}`;
  const entity = `entity ${own} in notes_${index}\n  id integer key\n  body text(30) optional`;
  const rules = rulesOf(rule, follows);
  if (form === 'pivot')
    return [
      entity,
      `relation several_${index}\n  ${own} knows many ${one} | ${other} as things_${index}\n  each knows many ${own} as notes_${index}\n  stored in table tagged_${index} (note_id, thing_type with thing_id)${rules}`,
    ];
  if (form === 'pivot of keys')
    return [
      entity,
      `relation several_${index}\n  ${own} knows many ${one} | ${other} as things_${index}\n  each knows many ${own} as notes_${index}\n  stored in table tagged_${index} (note_id, (first_id, second_id))${required ? ' repeats' : ''}${rules}`,
    ];
  const store =
    form === 'one of'
      ? `\n  stored in one of ${own}.first_id, ${own}.second_id`
      : form === 'without triggers'
        ? `\n  stored in ${own}.of_type with ${own}.of_id without triggers`
        : `\n  stored in ${own}.of_type with ${own}.of_id\n    ${one} marked 'o''ne'`;
  const each = back === '' ? '' : `\n  each knows ${back} ${own} as notes_${index}`;
  // Where each target has one at most, there may be fewer targets than rows.
  const knows = required && back !== 'at most one' ? 'one' : 'at most one';
  return [entity, `relation several_${index}\n  ${own} knows ${knows} ${one} | ${other} as of_${index}${each}${store}${rules}`];
}

/** A pivot that is an entity. */
const pairsOf = [
  'entity Seat in seats\n  id integer key\n  chair integer default 3',
  'relation seat_thing\n  Seat knows one Thing0 as thing\n  Thing0 knows many Seat as seats\n  on delete cascade',
  'entity Hall in halls\n  id bigint key',
  'relation seat_hall\n  Seat knows one Hall as hall\n  Hall knows many Seat as seats\n  on delete cascade',
  'relation seating\n  Thing0 knows many Hall as halls\n  Hall knows many Thing0 as seated\n  stored in Seat (thing, hall)',
  'path Hall.first_seat = seats order by chair desc first',
];

/** A table that is somebody else's. */
const givenOf = [
  'entity Foreign in "their table" given\n  code text(20) key\n  size integer optional',
  'relation foreign_of\n  Thing0 knows at most one Foreign as foreign\n  Foreign knows many Thing0 as local',
];

function defaultFor(type: string): string {
  const literal: Record<string, string> = {
    integer: '7',
    bigint: '9007199254740993',
    'decimal(6, 2)': '2.50',
    real: '0.5',
    boolean: 'true',
    text: "'it''s'",
    'text(40)': "''",
    date: 'today',
    time: "'09:30'",
    timestamp: 'now',
    Shade: "'it''s dark'",
  };
  return literal[type] === undefined ? '' : ` default ${literal[type]}`;
}
