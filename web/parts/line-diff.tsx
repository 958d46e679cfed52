import { lineParts } from '../../core/revisions/index.js';

const CONTEXT = 3;

/** What changed from one text to another: lines that went, lines that came, and a few around them. */
export function LineDiff({ before, after }: { readonly before: string; readonly after: string }) {
  const parts = lineParts(before, after);
  if (parts.every(({ kind }) => kind === 'same')) return <p className="p-4 text-ink-2">Nothing differs.</p>;
  let line = 0;
  return (
    <pre className="font-mono text-small leading-[1.6]">
      {parts.map((part, index) => {
        const start = line;
        if (part.kind !== 'removed') line += part.lines.length;
        if (part.kind === 'same') {
          const head = index === 0 ? [] : part.lines.slice(0, CONTEXT);
          const tail = index === parts.length - 1 ? [] : part.lines.slice(Math.max(head.length, part.lines.length - CONTEXT));
          const left = part.lines.length - head.length - tail.length;
          return (
            <span key={`same ${start}`}>
              {head.map((text, at) => (
                <Line key={`${start + at}`} sign=" " text={text} />
              ))}
              {left > 0 && (
                <span className="block bg-sheet px-4 text-ink-3">
                  … {left} {left === 1 ? 'line' : 'lines'} as before
                </span>
              )}
              {tail.map((text, at) => (
                <Line key={`t${start + at}`} sign=" " text={text} />
              ))}
            </span>
          );
        }
        return (
          <span key={`${part.kind} ${start}`}>
            {part.lines.map((text, at) => (
              <Line key={`${start + at}`} sign={part.kind === 'added' ? '+' : '−'} text={text} />
            ))}
          </span>
        );
      })}
    </pre>
  );
}

const LOOKS = {
  ' ': 'border-l-3 border-transparent',
  '+': 'border-l-3 border-fine bg-fine/10',
  '−': 'border-l-3 border-harm bg-harm/8 text-ink-2',
} as const;

function Line({ sign, text }: { readonly sign: ' ' | '+' | '−'; readonly text: string }) {
  return (
    <span className={`block px-4 whitespace-pre-wrap ${LOOKS[sign]}`}>
      <span className="mr-3 inline-block w-2 text-ink-3 select-none">{sign}</span>
      {text === '' ? ' ' : text}
    </span>
  );
}
