import { useMemo, useState } from 'react';
import type { QueryRun, RunResult } from '../../../contract/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import { failureMessage, useRunMutation } from '../../app/api.js';
import { type AskedAs, BesideFrame } from '../rows/beside/frame.js';
import { type BesideCounts, BesideRows, type SeenBeside } from '../rows/beside/rows.js';
import { beside } from './beside.js';

interface BesidePanelProps {
  readonly tree: string;
  /** What was run, and on whose behalf. */
  readonly run: QueryRun;
  readonly result: Extract<RunResult, { ok: true }>;
  readonly view: DesignView;
  onClose(): void;
}

/** The same query as two actors: row by row, who sees it and who does not, and why. */
export default function BesidePanel({ tree, run, result, view, onClose }: BesidePanelProps) {
  const [ask, { data, error, isLoading }] = useRunMutation();
  const [other, setOther] = useState<AskedAs | null>(null);
  // Lines of what is shown, counts and answers to “is there any” are no rows that a text could name.
  const isOfRows = !result.flat && result.cardinality !== 'count' && result.cardinality !== 'exists';
  const entity = isOfRows ? (view.entities.find(({ name }) => name === result.entity) ?? null) : null;
  const rows = useMemo(() => (data?.ok === true ? beside(result, data, entity) : []), [data, result, entity]);
  const one = run.as ?? 'system';
  const choose = (next: AskedAs) => {
    setOther(next);
    void ask({ tree, run: { ...run, as: next.as } });
  };
  return (
    <BesideFrame tree={tree} view={view} one={one} other={other} onChoose={choose} onClose={onClose}>
      {isLoading && <p className="mt-2 text-ink-2 italic">Asking as {other?.shown}…</p>}
      {error !== undefined && <p className="mt-2 text-harm">{failureMessage(error)}</p>}
      {data?.ok === false && (
        <p className="mt-2 text-harm">{[...data.findings.map(({ message }) => message), ...data.problems].join(' ')}</p>
      )}
      {data?.ok === true && other !== null && !isLoading && (
        <BesideRows
          tree={tree}
          rows={rows}
          counts={countsOf(rows)}
          note={result.page ? A_PAGE : null}
          pair={[one, other.as]}
          shown={[one, other.shown]}
          entity={entity}
        />
      )}
    </BesideFrame>
  );
}

const A_PAGE = 'Each is a page: what one lacks may stand on another page of theirs. “why” tells of the row itself.';

function countsOf(rows: readonly SeenBeside[]): BesideCounts {
  const onlyOne = rows.filter(({ other }) => !other).length;
  const onlyOther = rows.filter(({ one }) => !one).length;
  const differ = rows.filter(({ differs }) => differs).length;
  return { onlyOne, onlyOther, both: rows.length - onlyOne - onlyOther, differ };
}
