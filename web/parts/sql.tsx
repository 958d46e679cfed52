import { Check, Copy } from 'lucide-react';
import { useState } from 'react';
import { sqlTokens } from '../../core/sql/index.js';

const KEYWORDS = new Set(
  'select insert into values returning with distinct from where and or not join left on group having order by desc limit offset in is null exists as case when then else end between like escape create table index unique primary key foreign references constraint check default cascade restrict set union all cast true delete update action'.split(
    ' ',
  ),
);

/** Is a word one of SQL's own? */
export function isSqlKeyword(word: string): boolean {
  return KEYWORDS.has(word.toLowerCase());
}

/** How many lines around a new one are shown with it. */
const AROUND = 1;

/** SQL of which some lines are new: those and what stands beside them; the rest is a click away. */
export function ChangedSql({
  text,
  label,
  marked,
}: {
  readonly text: string;
  readonly label: string;
  readonly marked: readonly number[];
}) {
  const [whole, setWhole] = useState(false);
  if (whole || marked.length === 0) return <Sql text={text} label={label} marked={marked} />;
  const lines = text.split('\n');
  const near = lines.map((_, index) => index === 0 || marked.some((at) => Math.abs(at - index) <= AROUND));
  const shown = lines.flatMap((line, index) => (near[index] === true ? [{ line, index }] : []));
  return (
    <figure aria-label={label}>
      {shown.map(({ line, index }, position) => {
        const left = index - (shown[position - 1]?.index ?? -1) - 1;
        return (
          <div key={index}>
            {left > 0 && <Left lines={left} onShow={() => setWhole(true)} />}
            <MarkedLine line={line} marked={marked.includes(index)} />
          </div>
        );
      })}
      {lines.length - 1 > (shown.at(-1)?.index ?? 0) && (
        <Left lines={lines.length - 1 - (shown.at(-1)?.index ?? 0)} onShow={() => setWhole(true)} />
      )}
    </figure>
  );
}

function Left({ lines, onShow }: { readonly lines: number; onShow(): void }) {
  return (
    <button type="button" className="block text-small text-ink-3 hover:text-selected hover:underline" onClick={onShow}>
      ⋯ {lines} {lines === 1 ? 'line' : 'lines'} as before
    </button>
  );
}

function MarkedLine({ line, marked }: { readonly line: string; readonly marked: boolean }) {
  return (
    <span
      className={`block font-mono text-small leading-relaxed whitespace-pre-wrap ${marked ? '-ml-2 border-l-3 border-selected bg-wash pl-[5px]' : ''}`}
    >
      {coloured(line)}
    </span>
  );
}

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
    <figure className="group relative" aria-label={label}>
      <pre className="overflow-x-auto font-mono text-small leading-relaxed whitespace-pre-wrap">
        {marked.length === 0
          ? coloured(text)
          : text
              .split('\n')
              .map((line, index) => <MarkedLine key={`${index} ${line}`} line={line} marked={marked.includes(index)} />)}
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
    </figure>
  );
}

function coloured(text: string) {
  const parts: React.ReactNode[] = [];
  let at = 0;
  for (const token of sqlTokens(text)) {
    parts.push(text.slice(at, token.start));
    const name =
      token.kind === 'word' && isSqlKeyword(token.text)
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
