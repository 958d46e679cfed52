import { strToU8, type Zippable, zipSync } from 'fflate';
import { askDesign } from '../../app/design-client.js';

/** The earliest day that a packed file can bear: so the same text gives the same bytes. */
const DAY = new Date(1980, 0, 1);

/**
 * A text as a Markdown document with its pictures, packed (ZIP).
 *
 * @param name of the document within, without its ending
 * @throws where the design cannot be read
 */
export async function packedDocument(text: string, name: string): Promise<Blob> {
  const folder = `${name}-pictures`;
  const document = await askDesign('document', { text, folder });
  const files: Zippable = { [`${name}.md`]: strToU8(document.text) };
  for (const { file, svg } of document.pictures) files[`${folder}/${file}`] = strToU8(svg);
  return new Blob([Uint8Array.from(zipSync(files, { mtime: DAY }))], { type: 'application/zip' });
}
