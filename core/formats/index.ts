/**
 * A design in the formats that others read: one file each, a line among what they are about, and one among what makes them. The same text
 * gives the same bytes.
 */

import type { Design } from '../design/index.js';
import { readDesign } from '../design/index.js';
import { dialects, scriptOf } from '../dialects/index.js';
import type { DialectName } from '../notation/index.js';
import { FORMAT_NAMES, type FormatAbout, type FormatName, formatsAbout } from './about.js';
import { dotGraph } from './dot.js';
import { jsonSchema } from './json-schema.js';
import { type DocumentPicture, documentPictures, markdownDocument } from './markdown.js';
import { modelJson } from './model-json.js';
import { type Examples, openApi } from './openapi.js';
import { type PictureOptions, svgPicture } from './svg.js';
import { typescriptTypes } from './typescript.js';

export { FORMAT_NAMES, type FormatAbout, type FormatName, formatsAbout, isModelJson } from './about.js';
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

type Maker = (design: Design, options: FormatOptions) => string;

const makers: Readonly<Record<FormatName, Maker>> = {
  kin: ({ text }) => text,
  sql: (design, { dialect }) => {
    const own = dialect === undefined || dialect === design.dialect.name ? design : readDesign(design.text, dialect);
    return scriptOf(dialects[own.dialect.name], own.schema);
  },
  openapi: (design, { server, examples }) =>
    openApi(design, { ...(server === undefined ? {} : { server }), ...(examples === undefined ? {} : { examples }) }),
  'json-schema': jsonSchema,
  typescript: typescriptTypes,
  markdown: (design) => markdownDocument(design),
  svg: svgPicture,
  dot: dotGraph,
  model: modelJson,
};

/** A format that a design leaves in. */
export interface Format extends FormatAbout {
  readonly made: Maker;
}

/** The formats, each with what makes it. */
export const formats = Object.fromEntries(
  FORMAT_NAMES.map((name): [FormatName, Format] => [name, { ...formatsAbout[name], made: makers[name] }]),
) as Readonly<Record<FormatName, Format>>;

/** A document to be read, with the pictures that it shows: they lie in a folder beside it. */
export interface PicturedDocument {
  readonly text: string;
  readonly pictures: readonly DocumentPicture[];
}

/** A design as a Markdown document with pictures: its map, and each entity with its close kin. */
export function picturedDocument(design: Design, folder: string): PicturedDocument {
  return { text: markdownDocument(design, folder), pictures: documentPictures(design) };
}
