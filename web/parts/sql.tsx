import { Check, Copy } from 'lucide-react';
import { useState } from 'react';
import { sqlTokens } from '../../core/sql/index.js';

const KEYWORDS = new Set(
  'select from where and or not join left on order by desc limit offset in is null exists as case when then else end between like escape create table index unique primary key foreign references constraint check default cascade restrict set union all cast true delete update action'.split(
    ' ',
  ),
);

/** SQL, coloured, with a button that copies it. */
export function Sql({
  text,
  label = 'SQL',
  marked = [],
}: {
  readonly text: string;
  readonly label?: string;
  /** Lines, from 0, that were not there before. */
  readonly marked?: readonly number[];
}) {
  const [copied, setCopied] = useState(false);
  return (
    <div className="group relative" role="group" aria-label={label}>
      <pre className="overflow-x-auto font-mono text-small leading-relaxed whitespace-pre-wrap">
        {marked.length === 0
          ? coloured(text)
          : text.split('\n').map((line, index) => (
              <span
                key={`${index} ${line}`}
                className={`block ${marked.includes(index) ? '-ml-2 border-l-3 border-selected bg-wash pl-[5px]' : ''}`}
              >
                {coloured(line)}
              </span>
            ))}
      </pre>
      <button
        type="button"
        aria-label={`Copy the ${label}`}
        title="Copy"
        className="absolute top-0 right-0 rounded-sm bg-label p-1 text-ink-3 opacity-60 group-hover:opacity-100 hover:text-ink focus-visible:opacity-100"
        onClick={() => {
          void navigator.clipboard.writeText(text).then(() => {
            setCopied(true);
            setTimeout(() => setCopied(false), 1500);
          });
        }}
      >
        {copied ? <Check size={14} /> : <Copy size={14} />}
      </button>
    </div>
  );
}

function coloured(text: string) {
  const parts: React.ReactNode[] = [];
  let at = 0;
  for (const token of sqlTokens(text)) {
    parts.push(text.slice(at, token.start));
    const name =
      token.kind === 'word' && KEYWORDS.has(token.text.toLowerCase())
        ? 'kin-keyword'
        : token.kind === 'string' || token.kind === 'number'
          ? 'kin-text'
          : token.kind === 'parameter' || text[token.start - 1] === ':'
            ? 'kin-parameter'
            : '';
    parts.push(
      name === '' ? (
        token.text
      ) : (
        <span key={token.start} className={name}>
          {token.text}
        </span>
      ),
    );
    at = token.end;
  }
  parts.push(text.slice(at));
  return parts;
}
