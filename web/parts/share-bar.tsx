/** How much of some work is done. @param share from 0 to 1 */
export function ShareBar({ label, share }: { readonly label: string; readonly share: number }) {
  const percent = Math.round(share * 100);
  return (
    <span className="flex flex-1 items-center gap-3">
      <span role="progressbar" aria-label={label} aria-valuenow={percent} className="h-1.5 flex-1 border border-line bg-sheet">
        <span className="block h-full bg-selected" style={{ width: `${percent}%` }} />
      </span>
      <span className="w-12 text-right font-mono text-small">{percent} %</span>
    </span>
  );
}
