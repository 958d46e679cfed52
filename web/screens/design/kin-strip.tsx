const STEP = 'rounded-sm border border-line-2 bg-label px-2 py-0.5 hover:border-ink-3';

/** What the sheet of close kin shows, and the ways on from it: a step further, and back to the whole map. */
export function KinStrip({
  centres,
  further,
  onOpen,
  onWhole,
}: {
  readonly centres: readonly string[];
  readonly further: ReadonlyMap<string, number>;
  onOpen(entities: readonly string[]): void;
  onWhole(): void;
}) {
  const left = Array.from(further.values()).reduce((sum, count) => sum + count, 0);
  return (
    <section aria-label="Close kin" className="flex items-center gap-2 border-b border-line px-3 py-1 text-small">
      <span className="mr-auto truncate text-ink-2">
        Close kin of <span className="font-serif font-semibold text-ink">{centres.join(', ')}</span>
      </span>
      {left > 0 && (
        <button
          type="button"
          className={STEP}
          title="Show what these are related to as well"
          onClick={() => onOpen([...further.keys()])}
        >
          A step further
        </button>
      )}
      <button type="button" className={STEP} title="Back to the whole map, where it was left (K)" onClick={onWhole}>
        Whole map
      </button>
    </section>
  );
}
