import { useSearchParams } from 'react-router';
import { groupsOf } from '../../../core/checks/index.js';
import type { Finding, Weight } from '../../../core/notation/index.js';
import { useAppSelector } from '../../app/store.js';
import { Select } from '../../parts/input.js';
import { WEIGHT_SIGNS } from '../../parts/weights.js';
import { AsExpected } from './as-expected.js';
import { GroupItem } from './group-item.js';
import { InTheRows } from './in-the-rows.js';
import { MeantSo } from './meant-so.js';

const NONE: readonly never[] = [];

const WEIGHTS: readonly { readonly weight: Weight; readonly title: string; readonly words: string }[] = [
  { weight: 'error', title: 'Wrong', words: 'left out until it is mended; the rest works' },
  { weight: 'warning', title: 'Doubtful', words: 'it works, but hardly as meant' },
  { weight: 'note', title: 'Worth knowing', words: 'nothing has to be done' },
];

/** Everything that is wrong or doubtful, by weight: why it matters, where it stands, and what would mend it. */
export function FindingsScreen() {
  const view = useAppSelector((state) => state.workspace.view);
  const text = useAppSelector((state) => state.workspace.text);
  const findings = view?.findings ?? NONE;
  const [search, setSearch] = useSearchParams();
  const only = search.get('code');
  const shown = only === null ? findings : findings.filter(({ code }) => code === only);
  const codes = Array.from(new Set(findings.map(({ code }) => code))).sort();
  if (view === null) return <p className="p-6 text-ink-2">Reading the text…</p>;
  return (
    <div className="relative h-full overflow-auto px-8 py-5">
      <h2 className="font-serif text-[22px] font-semibold">Findings</h2>
      <InTheRows text={view.text} />
      <AsExpected count={view.expectations.length} />
      <header className="mt-7 flex items-baseline gap-3">
        <h3 className="font-serif text-title font-semibold">In the design</h3>
        <span className="text-ink-2">{summary(findings)}</span>
        {codes.length > 1 && (
          <label className="ml-auto text-small text-ink-2">
            Only{' '}
            <Select
              value={only ?? ''}
              onChange={(event) => setSearch(event.target.value === '' ? {} : { code: event.target.value })}
            >
              <option value="">everything</option>
              {codes.map((code) => (
                <option key={code} value={code}>
                  {code.replaceAll('-', ' ')}
                </option>
              ))}
            </Select>
          </label>
        )}
      </header>
      {findings.length === 0 && (
        <div className="mt-3 max-w-[62ch] border border-line bg-label px-6 py-5">
          <p className="font-serif text-title text-fine">✓ Nothing is wrong or doubtful.</p>
          <p className="mt-2 text-ink-2">
            The text is looked at while it is typed: names and types, rules that an engine cannot keep, keys that need each other,
            what kinds lose where they are stored, secrets that go out with every row. Both lists are printed by{' '}
            <code className="font-mono text-small">family-tree check --db</code>.
          </p>
        </div>
      )}
      {WEIGHTS.map(({ weight, title, words }) => {
        const own = shown.filter((finding) => finding.weight === weight);
        return own.length === 0 ? null : (
          <section key={weight} aria-label={title} className="mt-3">
            <h4 className="flex items-baseline gap-3 border-b border-line-2 pb-1">
              <span className={`font-semibold ${WEIGHT_SIGNS[weight][1]}`}>
                {WEIGHT_SIGNS[weight][0]} {title}
              </span>
              <span className="font-mono text-small">{own.length}</span>
              <span className="text-small text-ink-2">{words}</span>
            </h4>
            <ul>
              {groupsOf(own).map((group) => (
                <GroupItem key={`${group.code} ${group.findings[0].span.start}`} group={group} read={view.text} text={text} />
              ))}
            </ul>
          </section>
        );
      })}
      <MeantSo meant={view.meant} text={view.text} />
    </div>
  );
}

function summary(findings: readonly Finding[]): string {
  const parts = WEIGHTS.flatMap(({ weight, title }) => {
    const count = findings.filter((finding) => finding.weight === weight).length;
    return count === 0 ? [] : [`${count} ${title.toLowerCase()}`];
  });
  return parts.join(', ');
}
