import { LONGEST_TEXT } from '../../../contract/index.js';
import { isModelJson } from '../../../core/formats/index.js';
import { askDesign } from '../../app/design-client.js';

/** The text in a file that somebody sent: a `.kin` text, or a model’s JSON. Told for a person where it is neither. */
export async function textIn(file: File): Promise<{ readonly text: string } | { readonly problem: string }> {
  // A model bears its text and tells of all of it once more.
  if (file.size > LONGEST_TEXT * 16) return { problem: `${file.name} is larger than a text or a model may be.` };
  const content = await file.text();
  if (content.includes('\0') || content.includes('\uFFFD'))
    return { problem: `${file.name} is no text. A database is brought in by “Bring in a database”.` };
  if (!isModelJson(content)) return { text: content.replace(/^\uFEFF/, '') };
  const read = await askDesign('text of model', { json: content });
  return 'problem' in read ? { problem: `${file.name}: ${read.problem}` } : read;
}
