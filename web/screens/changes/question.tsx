import { useState } from 'react';
import type { ToldQuestion } from '../../../contract/index.js';
import { Button } from '../../parts/button.js';
import { Input } from '../../parts/input.js';
import { SeenRows } from './seen-rows.js';

/** What stands in a line where a person has to say something. */
const TO_FILL = '…';
/** So many values of a question are shown before the rest is asked for. */
const SHOWN = 6;

/** What only a person can say: what it is about, with the lines that say it. */
export function QuestionBox({ question, onSay }: { readonly question: ToldQuestion; onSay(line: string): void }) {
  const [all, setAll] = useState(false);
  const { sentence, rows, examples, look, ways } = question;
  const shown = all ? examples : examples.slice(0, SHOWN);
  return (
    <section aria-label={`Question: ${sentence}`} className="my-1.5 border-l-3 border-to-many bg-label py-2 pr-3 pl-4">
      <p className="font-semibold break-words">{sentence}</p>
      {shown.length > 0 && (
        <ul aria-label="Values" className="mt-1 flex flex-wrap gap-x-4 font-mono text-small">
          {shown.map((example) => (
            <li key={example.shown} className="max-w-full truncate" title={example.shown}>
              {example.shown} <span className="text-ink-3">× {example.rows.toLocaleString('en')}</span>
            </li>
          ))}
          {examples.length > shown.length && (
            <li>
              <button type="button" className="underline underline-offset-2" onClick={() => setAll(true)}>
                {examples.length - shown.length} more
              </button>
            </li>
          )}
        </ul>
      )}
      {look.length > 0 && <SeenRows look={look} rows={rows} onSay={onSay} />}
      <ul className="mt-2 space-y-1.5">
        {ways.map(({ line, does }) => (
          <WayLine key={line} line={line} does={does} onSay={onSay} />
        ))}
      </ul>
    </section>
  );
}

function WayLine({ line, does, onSay }: { readonly line: string; readonly does: string; onSay(line: string): void }) {
  const [written, setWritten] = useState(line);
  const isOpen = written.includes(TO_FILL) || written.trim() === '';
  return (
    <li>
      <form
        className="grid grid-cols-[minmax(0,1fr)_auto_minmax(0,14rem)] items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (!isOpen) onSay(written.trim());
        }}
      >
        <Input
          code
          aria-label={does}
          value={written}
          spellCheck={false}
          onFocus={(event) => selectWhatIsOpen(event.currentTarget)}
          onClick={(event) => selectWhatIsOpen(event.currentTarget)}
          onChange={(event) => setWritten(event.target.value)}
        />
        <Button type="submit" disabled={isOpen} title={isOpen ? `Say what ${TO_FILL} is` : 'Adds the line to the answers'}>
          Answer
        </Button>
        <span className="text-small text-ink-2">{does}</span>
      </form>
    </li>
  );
}

/** What has to be said is selected, so that it is typed over. */
function selectWhatIsOpen(input: HTMLInputElement): void {
  const at = input.value.indexOf(TO_FILL);
  if (at !== -1) input.setSelectionRange(at, at + TO_FILL.length);
}
