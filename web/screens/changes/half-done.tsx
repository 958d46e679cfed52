import { useState } from 'react';
import type { ChangesPlanned, SettlePlanAsk } from '../../../contract/index.js';
import { settlePlan } from '../../app/carry-out-plan.js';
import { Button } from '../../parts/button.js';

type Left = NonNullable<Extract<ChangesPlanned, { ok: false }>['left']>;

/** What can become of a plan that was left half done: it is finished, or taken back, before anything else. */
export function HalfDone({
  tree,
  database,
  left,
  onSettled,
}: {
  readonly tree: string;
  readonly database: string;
  readonly left: Left;
  onSettled(): void;
}) {
  const [said, setSaid] = useState<{ readonly problem: boolean; readonly text: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const settle = async (way: SettlePlanAsk['way']) => {
    setBusy(true);
    setSaid({ problem: false, text: 'Beginning…' });
    const outcome = await settlePlan({ tree, database }, way, {
      onStep: ({ what }) => setSaid({ problem: false, text: `${what}…` }),
    });
    setBusy(false);
    const told = 'problem' in outcome ? { ok: false as const, problem: outcome.problem } : outcome.value;
    setSaid(told.ok ? { problem: false, text: told.told } : { problem: true, text: told.problem });
    if (told.ok) onSettled();
  };
  return (
    <div className="mx-6 space-y-2">
      <p className="flex gap-3">
        {left.canFinish && (
          <Button strong disabled={busy} onClick={() => void settle('finish')}>
            Finish it
          </Button>
        )}
        {left.canTakeBack && (
          <Button disabled={busy} onClick={() => void settle('take back')}>
            Take it back
          </Button>
        )}
      </p>
      {said !== null && (
        <p role={said.problem ? 'alert' : 'status'} className={said.problem ? 'text-harm' : 'text-ink-2'}>
          {said.text}
        </p>
      )}
    </div>
  );
}
