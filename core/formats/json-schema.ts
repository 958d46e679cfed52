import type { Design } from '../design/index.js';
import { resourcesOf } from '../live/index.js';
import { resourceSchemas } from './resource-schema.js';

/** The schemas of a design’s resources (JSON Schema 2020-12), as they are read and as they are written. */
export function jsonSchema({ model }: Design): string {
  const defs = resourceSchemas(resourcesOf(model));
  const document = {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: model.title,
    ...(model.note === null ? {} : { description: model.note }),
    $defs: defs,
  };
  return `${JSON.stringify(document, null, 2)}\n`;
}
