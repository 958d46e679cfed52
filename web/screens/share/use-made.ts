import { useEffect, useState } from 'react';
import type { FormatName, FormatOptions } from '../../../core/formats/index.js';
import { askDesign } from '../../app/design-client.js';
import { useAppSelector } from '../../app/store.js';

/** What a design is in a format; nothing while it is made. */
export interface Made {
  readonly content: string | null;
  readonly problem: string | null;
}

/** The text of the page in a format, made again as the text changes. */
export function useMade(format: FormatName, options: FormatOptions): Made {
  const text = useAppSelector((state) => state.workspace.text);
  const [made, setMade] = useState<Made & { readonly of: string }>({ content: null, problem: null, of: '' });
  const question = JSON.stringify([format, options]);
  useEffect(() => {
    let current = true;
    const [name, given] = JSON.parse(question) as [FormatName, FormatOptions];
    // A text that changes with each key is not made into anything before it rests.
    const timer = setTimeout(() => {
      askDesign('format', { text, format: name, options: given }).then(
        (content) => current && setMade({ content, problem: null, of: question }),
        (error: unknown) => current && setMade({ content: null, problem: String(error), of: question }),
      );
    }, 150);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [text, question]);
  return made.of === question ? made : { content: null, problem: null };
}
