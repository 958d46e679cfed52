import { useEffect, useState } from 'react';
import { Button } from '../../parts/button.js';
import { keepFile } from '../../parts/keep-file.js';

/** The answers as lines, as they stand beside the text: written by hand, kept in a repository, and said to the next database again. */
export function AnswersBox({ answers, onSay }: { readonly answers: string; onSay(next: string): void }) {
  const [written, setWritten] = useState(answers);
  useEffect(() => setWritten(answers), [answers]);
  const isOther = written !== answers;
  return (
    <section aria-label="Answers">
      <h3 className="flex items-baseline border-b border-line-2 pb-1 font-serif font-semibold">
        Answers
        {answers !== '' && (
          <button
            type="button"
            className="ml-auto font-sans text-small font-normal text-selected underline underline-offset-2"
            onClick={() => keepFile(new Blob([answers], { type: 'text/plain' }), 'library.answers')}
          >
            Download
          </button>
        )}
      </h3>
      <textarea
        aria-label="Answers, a line each"
        className="mt-2 block h-24 w-full resize-y rounded-sm border border-line-2 bg-label px-2 py-1 font-mono text-small placeholder:text-ink-3"
        placeholder="A line each. What a plan asks is answered in place, and its line comes here."
        spellCheck={false}
        value={written}
        onChange={(event) => setWritten(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) onSay(written);
        }}
      />
      {isOther && (
        <p className="mt-1 flex items-center gap-2">
          <Button onClick={() => onSay(written)}>Keep</Button>
          <button type="button" className="text-small underline underline-offset-2" onClick={() => setWritten(answers)}>
            As they were
          </button>
        </p>
      )}
    </section>
  );
}
