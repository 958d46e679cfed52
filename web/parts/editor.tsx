import { fetched } from '../app/fetched.js';
import type { EditorProps } from './editor-props.js';

/** A text to write in. Its code is the largest of the page's parts, and the text can be read before it is there. */
export const Editor = fetched(async () => {
  const { CodeEditor } = await import('./code-editor.js');
  // What is drawn beside it goes first.
  await new Promise<void>((done) => requestIdleCallback(() => done(), { timeout: LATEST }));
  return CodeEditor;
}, TextToRead);

/** In milliseconds. */
const LATEST = 400;

function TextToRead({ text, numbers = true }: EditorProps) {
  return (
    <pre className={`h-full overflow-hidden bg-label py-1 font-mono text-[12.5px]/[1.6] ${numbers ? 'pl-14' : 'pl-1.5'}`}>
      {text.slice(0, MOST_LETTERS)}
    </pre>
  );
}

/** As much as fits a tall screen. */
const MOST_LETTERS = 10_000;
