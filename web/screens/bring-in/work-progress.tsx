import type { Progress } from '../../app/bring-in.js';
import { ShareBar } from '../../parts/share-bar.js';

/** How far a database has come: how much is sent, and each step of what is done with it. */
export function WorkProgress({ progress: { name, sent, steps } }: { readonly progress: Progress }) {
  const sending = sent !== null && sent < 1;
  return (
    <div role="status" aria-label="Progress" className="border border-line-2 bg-label p-4">
      <p className="font-semibold break-all">{name}</p>
      {sent !== null && (
        <div className="mt-3 flex">
          <ShareBar label="Sent" share={sent} />
        </div>
      )}
      <ol className="mt-3 space-y-1 text-ink-2">
        {sent !== null && <li>{sending ? 'Sending it…' : 'Sent.'}</li>}
        {steps.map((step, index) => (
          <li key={step}>{index === steps.length - 1 ? `${step}…` : `${step}.`}</li>
        ))}
        {!sending && steps.length === 0 && <li>Opening it…</li>}
      </ol>
    </div>
  );
}
