import { Check, Copy } from 'lucide-react';
import { useState } from 'react';

/** Copies a text to the clipboard, and says that it did. */
export function CopyButton({
  text,
  label,
  words = '',
}: {
  readonly text: string;
  readonly label: string;
  readonly words?: string;
}) {
  const [copied, setCopied] = useState(false);
  return (
    <button
      type="button"
      aria-label={copied ? 'Copied' : label}
      title={label}
      className="flex shrink-0 items-center gap-1.5 rounded-sm border border-line-2 bg-label px-1.5 py-0.5 text-ink-2 hover:border-ink-3 hover:text-ink"
      onClick={() =>
        void navigator.clipboard.writeText(text).then(() => {
          setCopied(true);
          setTimeout(() => setCopied(false), 1500);
        })
      }
    >
      {copied ? <Check size={14} aria-hidden="true" /> : <Copy size={14} aria-hidden="true" />}
      {words !== '' && (copied ? 'Copied' : words)}
    </button>
  );
}
