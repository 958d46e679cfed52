/** A design in the formats that others read: one file each, and one line in the table. The same text gives the same bytes. */

import type { Design } from '../design/index.js';
import { readDesign } from '../design/index.js';
import { dialects, scriptOf } from '../dialects/index.js';
import type { DialectName } from '../notation/index.js';
import { dotGraph } from './dot.js';
import { jsonSchema } from './json-schema.js';
import { type DocumentPicture, documentPictures, markdownDocument } from './markdown.js';
import { modelJson } from './model-json.js';
import { type Examples, openApi } from './openapi.js';
import { type PictureOptions, svgPicture } from './svg.js';
import { typescriptTypes } from './typescript.js';

export { type LeavingField, leavingFields } from './leaving.js';
export { modelSchema, textOfModel } from './model-json.js';
export type { Examples } from './openapi.js';
export { dotsPerUnit } from './png.js';
export { resourceSchemas } from './resource-schema.js';
export type { Letters } from './svg.js';

/** What a format is told beside the design. */
export interface FormatOptions extends PictureOptions {
  /** The dialect of a script; left out, the design’s own. */
  readonly dialect?: DialectName;
  /** The address of the endpoint that a document speaks of. */
  readonly server?: string;
  readonly examples?: Examples;
}

/** A format that a design leaves in. */
export interface Format {
  readonly title: string;
  /** What it is good for, in a line. */
  readonly purpose: string;
  /** The ending of its files. */
  readonly ending: string;
  readonly media: string;
  /** Fields that are hidden leave by it. */
  readonly tellsHidden: boolean;
  made(design: Design, options: FormatOptions): string;
}

const table = {
  kin: {
    title: '.kin',
    purpose: 'the text itself',
    ending: 'kin',
    media: 'text/plain',
    tellsHidden: true,
    made: ({ text }) => text,
  },
  sql: {
    title: 'SQL',
    purpose: 'the script that makes its tables',
    ending: 'sql',
    media: 'application/sql',
    tellsHidden: true,
    made: (design, { dialect }) => {
      const own = dialect === undefined || dialect === design.dialect.name ? design : readDesign(design.text, dialect);
      return scriptOf(dialects[own.dialect.name], own.schema);
    },
  },
  openapi: {
    title: 'OpenAPI 3.1',
    purpose: 'what the live endpoint answers to',
    ending: 'openapi.json',
    media: 'application/json',
    tellsHidden: false,
    made: (design, { server, examples }) =>
      openApi(design, { ...(server === undefined ? {} : { server }), ...(examples === undefined ? {} : { examples }) }),
  },
  'json-schema': {
    title: 'JSON Schema 2020-12',
    purpose: 'each entity as it is read and as it is written',
    ending: 'schema.json',
    media: 'application/schema+json',
    tellsHidden: false,
    made: jsonSchema,
  },
  typescript: {
    title: 'TypeScript',
    purpose: 'types of rows, and of what saved queries answer',
    ending: 'ts',
    media: 'text/plain',
    tellsHidden: false,
    made: typescriptTypes,
  },
  markdown: {
    title: 'Markdown',
    purpose: 'a document to be read',
    ending: 'md',
    media: 'text/markdown',
    tellsHidden: false,
    made: (design) => markdownDocument(design),
  },
  svg: {
    title: 'SVG',
    purpose: 'a picture of the map',
    ending: 'svg',
    media: 'image/svg+xml',
    tellsHidden: false,
    made: svgPicture,
  },
  dot: {
    title: 'DOT',
    purpose: 'the map as a graph',
    ending: 'dot',
    media: 'text/vnd.graphviz',
    tellsHidden: false,
    made: dotGraph,
  },
  model: {
    title: 'Model',
    purpose: 'all that the text says, with every convention filled in',
    ending: 'model.json',
    media: 'application/json',
    tellsHidden: true,
    made: modelJson,
  },
} as const satisfies Readonly<Record<string, Format>>;

export type FormatName = keyof typeof table;

export const formats: Readonly<Record<FormatName, Format>> = table;

/** The names of all formats, in the order in which they are shown. */
export const FORMAT_NAMES = Object.keys(table) as readonly FormatName[];

/** A document to be read, with the pictures that it shows: they lie in a folder beside it. */
export interface PicturedDocument {
  readonly text: string;
  readonly pictures: readonly DocumentPicture[];
}

/** A design as a Markdown document with pictures: its map, and each entity with its close kin. */
export function picturedDocument(design: Design, folder: string): PicturedDocument {
  return { text: markdownDocument(design, folder), pictures: documentPictures(design) };
}
