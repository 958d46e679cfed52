import type { LinesAsk } from '../../contract/index.js';
import type { Design } from '../../core/design/index.js';
import { type FileMapping, readUse } from '../../core/row-files/index.js';
import type { RowFile } from '../../engines/index.js';

/** What the columns of a file are, as a person has said. */
export function mappingOf(
  { model }: Design,
  {
    entity,
    uses,
    nothing,
    there,
    match,
    file,
  }: Pick<LinesAsk, 'entity' | 'uses' | 'nothing' | 'there' | 'match'> & { readonly file: Pick<RowFile, 'columns'> },
): FileMapping | { readonly problem: string } {
  if (!model.entities.has(entity)) return { problem: `The text has no entity called ${entity}.` };
  const columns: FileMapping['columns'][number][] = [];
  for (const [at, name] of file.columns.entries()) {
    const use = readUse(model, entity, uses[at] ?? 'left out');
    if ('problem' in use) return use;
    columns.push({ name, use });
  }
  return { entity, columns, nothing, there, match };
}
