import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { useMemo } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { positions } from '../../core/notation/index.js';
import { WEIGHT_SIGNS } from '../parts/weights.js';
import { useAppSelector } from './store.js';

const NONE: readonly never[] = [];

function counted(findings: number, errors: number): string {
  const of = (count: number, word: string) => `${count} ${word}${count === 1 ? '' : 's'}`;
  if (errors === findings) return of(errors, 'error');
  return errors === 0 ? of(findings, 'finding') : `${of(findings, 'finding')}, ${of(errors, 'error')}`;
}

/** How much is wrong or doubtful, on every screen; each leads to its line. */
export function Findings() {
  const findings = useAppSelector((state) => state.workspace.view?.findings ?? NONE);
  const text = useAppSelector((state) => state.workspace.view?.text ?? '');
  const { tree = '' } = useParams();
  const navigate = useNavigate();
  const positionOf = useMemo(() => positions(text), [text]);
  const errors = findings.filter(({ weight }) => weight === 'error').length;
  if (findings.length === 0) return <span className="text-small whitespace-nowrap text-ink-2">no findings in the text</span>;
  return (
    <Popover className="relative">
      <PopoverButton
        className={`rounded-sm border px-2 py-0.5 text-small whitespace-nowrap ${errors > 0 ? 'border-harm text-harm' : 'border-line-2 text-to-many'}`}
      >
        {counted(findings.length, errors)}
      </PopoverButton>
      <PopoverPanel className="absolute top-8 right-0 z-30 max-h-96 w-[440px] overflow-auto border border-line-2 bg-label text-ink shadow-slip">
        {({ close }) => (
          <ul>
            <li className="border-b border-line px-4 py-1.5">
              <Link to={`/tree/${tree}/findings`} className="text-selected hover:underline" onClick={() => close()}>
                All with why they matter, and what would mend them
              </Link>
            </li>
            {findings.map((finding) => (
              <li key={`${finding.span.start} ${finding.code} ${finding.message}`} className="border-b border-line last:border-0">
                <button
                  type="button"
                  className="flex w-full items-baseline gap-3 px-4 py-1.5 text-left text-small hover:bg-wash"
                  onClick={() => {
                    close();
                    void navigate(`/tree/${tree}/design?at=${finding.span.start}`);
                  }}
                >
                  <span className={`w-14 shrink-0 ${WEIGHT_SIGNS[finding.weight][1]}`}>
                    {WEIGHT_SIGNS[finding.weight][0]} line {positionOf(finding.span.start).line}
                  </span>
                  <span>{finding.message}</span>
                </button>
              </li>
            ))}
          </ul>
        )}
      </PopoverPanel>
    </Popover>
  );
}
