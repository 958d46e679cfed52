import { cardsOf, type EntityCard, type RelationCard, type SentenceCard } from '../cards/index.js';
import type { Design } from '../design/index.js';
import { type Model, snakeCase } from '../model/index.js';
import { svgPicture } from './svg.js';

/** As many letters of an entity’s name as the name of a file has. */
const LONGEST_FILE = 80;

/** A picture that a document shows: an SVG, under the name of its file. */
export interface DocumentPicture {
  readonly file: string;
  readonly svg: string;
}

/**
 * A design as a document to be read: its entities with their fields, its relations as sentences, notes, rules and walls.
 *
 * @param folder where its pictures lie, seen from the document; left out, it shows none
 */
export function markdownDocument(design: Design, folder?: string): string {
  const { model, text } = design;
  const files = folder === undefined ? null : pictureFiles(model);
  const picture = (entity: string | null): readonly string[] => {
    const file = files?.get(entity);
    if (file === undefined) return [];
    const title = entity === null ? `The map of ${model.title}` : `${entity} and its close kin`;
    return [`![${escaped(title)}](${[...(folder ?? '').split('/'), file].map(encodeURIComponent).join('/')})`];
  };
  const cards = cardsOf(design);
  const entities = cards.filter((card): card is EntityCard => card.kind === 'entity');
  const relations = cards.filter((card): card is RelationCard => card.kind === 'relation');
  const words = ({ start, end }: { readonly start: number; readonly end: number }) => oneLine(text.slice(start, end));
  const queries = Array.from(
    model.queries.values(),
    ({ name, note }) => `- \`${name ?? ''}\`${note === null ? '' : `: ${escaped(note)}`}`,
  );
  const rules = Array.from(model.entities.values()).flatMap((entity) =>
    [...entity.checks, ...entity.rules]
      .filter(({ span }) => span.start >= entity.span.start && span.end <= entity.span.end)
      .map(
        ({ name, expression, message }) =>
          `- **${escaped(entity.name)}**, ${escaped(name)}: ${code(words(expression.span))}${message === null ? '' : ` “${escaped(message)}”`}`,
      ),
  );
  const walls = Array.from(model.walls.values(), ({ name, note, conditions }) => {
    const lines = Array.from(
      conditions,
      ([entity, own]) => `  - ${escaped(entity)}: ${own.map(({ holds }) => code(words(holds.span))).join(' and ')}`,
    );
    return [`- **${escaped(name)}**${note === null ? '' : `: ${escaped(note)}`}`, ...lines].join('\n');
  });
  const parts = [
    `# ${escaped(model.title)}`,
    ...(model.note === null ? [] : [escaped(model.note)]),
    ...picture(null),
    '## Entities',
    ...entities.map((card) => entityPart(card, hiddenOf(design, card.name), picture(card.name))),
    '## Relations',
    ...relations.map(relationPart),
    ...section('## Rules', rules),
    ...section('## Walls', walls),
    ...section('## Queries', queries),
  ];
  return `${parts.join('\n\n')}\n`;
}

/** The pictures that a document of a design shows: the whole map, and each entity with its close kin. */
export function documentPictures(design: Design): readonly DocumentPicture[] {
  return Array.from(pictureFiles(design.model), ([entity, file]) => ({
    file,
    svg: svgPicture(design, entity === null ? {} : { kin: entity }),
  }));
}

/** The file of the picture of each entity, and of the whole map under null. */
function pictureFiles({ entities }: Model): ReadonlyMap<string | null, string> {
  const files = new Map<string | null, string>([[null, 'map.svg']]);
  const taken = new Set(files.values());
  for (const name of entities.keys()) {
    const plain = snakeCase(name)
      .replace(/[^a-z0-9_]+/g, '-')
      .slice(0, LONGEST_FILE);
    let file = `${plain}.svg`;
    for (let number = 2; taken.has(file); number++) file = `${plain}-${number}.svg`;
    taken.add(file);
    files.set(name, file);
  }
  return files;
}

function section(title: string, items: readonly string[]): readonly string[] {
  return items.length === 0 ? [] : [title, items.join('\n')];
}

/** The names of an entity’s fields that are hidden: they leave no more than their values. */
function hiddenOf({ model }: Design, name: string): ReadonlySet<string> {
  return new Set((model.entities.get(name)?.fields ?? []).flatMap((field) => (field.hidden ? [field.name] : [])));
}

function entityPart(
  { name, note, table, fields, sentences, paths }: EntityCard,
  hidden: ReadonlySet<string>,
  picture: readonly string[],
): string {
  const rows = fields
    .filter((field) => !hidden.has(field.name))
    .map(
      ({ name: field, type, marks, note: said }) =>
        `| ${cell(field)} | ${cell(type)} | ${cell(marks.join(', '))} | ${cell(said ?? '')} |`,
    );
  const derived = paths.map((path) => `- ${escaped(path.name)}: ${code(path.text)}`);
  return [
    `### ${escaped(name)}`,
    ...(note === null ? [] : [escaped(note)]),
    ...picture,
    `Table ${code(table.text)}.`,
    ['| field | type | is | note |', '| --- | --- | --- | --- |', ...rows].join('\n'),
    ...section('', sentences.map(sentence)).filter((part) => part !== ''),
    ...(derived.length === 0 ? [] : [derived.join('\n')]),
  ].join('\n\n');
}

function relationPart({ name, form, note, sentences, storage, deletes }: RelationCard): string {
  return [
    `### ${escaped(name)}`,
    ...(note === null ? [] : [escaped(note)]),
    [`${escaped(form)}.`, ...deletes.map(({ when, then }) => `${escaped(when)}, ${escaped(then)}.`)].join(' '),
    [...sentences.map(sentence), ...storage.map(({ text, why }) => `- stored as ${code(text)} (${escaped(why)})`)].join('\n'),
  ].join('\n\n');
}

function sentence({ subject, knows, targets, role, note }: SentenceCard): string {
  return `- ${escaped(subject)} knows ${knows} ${targets.map(escaped).join(' or ')} as **${escaped(role)}**${note === null ? '' : `: ${escaped(note)}`}`;
}

function oneLine(text: string): string {
  return text.replace(/\s+/g, ' ').trim();
}

/** A text as a paragraph has it, so that none of its signs means anything (CommonMark 0.31, 2.4). */
function escaped(text: string): string {
  const line = oneLine(text).replace(/[\\`*_[\]<>&~|]/g, (sign) => `\\${sign}`);
  // At the beginning these make heads, lists, rules and code.
  return line.replace(/^(\d+)([.)])/, '$1\\$2').replace(/^([#+\-=])/, '\\$1');
}

function cell(text: string): string {
  return escaped(text);
}

/** A text as code: between more backticks than it has in a row (CommonMark 0.31, 6.1). */
function code(text: string): string {
  const line = oneLine(text);
  const most = Math.max(0, ...Array.from(line.matchAll(/`+/g), ([found]) => found.length));
  const fence = '`'.repeat(most + 1);
  const room = line.startsWith('`') || line.endsWith('`') ? ' ' : '';
  return `${fence}${room}${line}${room}${fence}`;
}
