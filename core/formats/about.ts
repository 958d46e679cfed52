/** What a format is good for, and what its files are: without the code that makes them. */
export interface FormatAbout {
  readonly title: string;
  /** What it is good for, in a line. */
  readonly purpose: string;
  /** The ending of its files. */
  readonly ending: string;
  readonly media: string;
  /** Fields that are hidden leave by it. */
  readonly tellsHidden: boolean;
}

const table = {
  kin: {
    title: '.kin',
    purpose: 'the text itself',
    ending: 'kin',
    media: 'text/plain',
    tellsHidden: true,
  },
  sql: {
    title: 'SQL',
    purpose: 'the script that makes its tables',
    ending: 'sql',
    media: 'application/sql',
    tellsHidden: true,
  },
  openapi: {
    title: 'OpenAPI 3.1',
    purpose: 'what the live endpoint answers to',
    ending: 'openapi.json',
    media: 'application/json',
    tellsHidden: false,
  },
  'json-schema': {
    title: 'JSON Schema 2020-12',
    purpose: 'each entity as it is read and as it is written',
    ending: 'schema.json',
    media: 'application/schema+json',
    tellsHidden: false,
  },
  typescript: {
    title: 'TypeScript',
    purpose: 'types of rows, and of what saved queries answer',
    ending: 'ts',
    media: 'text/plain',
    tellsHidden: false,
  },
  markdown: {
    title: 'Markdown',
    purpose: 'a document to be read',
    ending: 'md',
    media: 'text/markdown',
    tellsHidden: false,
  },
  svg: {
    title: 'SVG',
    purpose: 'a picture of the map',
    ending: 'svg',
    media: 'image/svg+xml',
    tellsHidden: false,
  },
  dot: {
    title: 'DOT',
    purpose: 'the map as a graph',
    ending: 'dot',
    media: 'text/vnd.graphviz',
    tellsHidden: false,
  },
  model: {
    title: 'Model',
    purpose: 'all that the text says, with every convention filled in',
    ending: 'model.json',
    media: 'application/json',
    tellsHidden: true,
  },
} as const satisfies Readonly<Record<string, FormatAbout>>;

export type FormatName = keyof typeof table;

export const formatsAbout: Readonly<Record<FormatName, FormatAbout>> = table;

/** The names of all formats, in the order in which they are shown. */
export const FORMAT_NAMES = Object.keys(table) as readonly FormatName[];

/** Whether a text is the JSON of a model: no text of the notation begins as that does. */
export function isModelJson(text: string): boolean {
  return /^\uFEFF?\s*\{/.test(text);
}
