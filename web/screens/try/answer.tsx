import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/react';
import { useMemo } from 'react';
import type { RunResult } from '../../../contract/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import { AnswerTable } from './answer-table.js';
import { AnswerTree } from './answer-tree.js';

const TAB = 'border-b-2 border-transparent px-3 py-2 data-selected:border-selected data-selected:font-semibold';

/** The answer: as a tree of rows with what was loaded along, and as JSON. */
export function AnswerPane({ result, view }: { readonly result: RunResult | null; readonly view: DesignView | null }) {
  const rows = useMemo(() => (result?.ok === true ? (JSON.parse(result.text) as Record<string, unknown>[]) : []), [result]);
  const json = useMemo(() => {
    if (result?.ok !== true) return '';
    const whole = JSON.stringify(result.cardinality === 'many' ? rows : (rows[0] ?? null), null, 2);
    return whole.length > 400_000 ? `${whole.slice(0, 400_000)}\n… cut for this view; the command line gives it whole.` : whole;
  }, [result, rows]);
  const flat = result?.ok === true && result.flat;
  const entity = result?.ok === true && !flat ? result.entity : '';
  return (
    // Lines are read in a table, rows with what is loaded below them in a tree.
    <TabGroup key={String(flat)} defaultIndex={flat ? 1 : 0} className="flex h-full min-h-0 flex-col">
      <TabList className="flex shrink-0 items-center border-b border-line px-3" aria-label="Answer as">
        <Tab className={TAB}>Tree</Tab>
        <Tab className={TAB}>Table</Tab>
        <Tab className={TAB}>JSON</Tab>
        {result?.ok === true && (
          <span className="ml-auto pr-3 text-small text-ink-2">{`${rows.length.toLocaleString('en')} ${flat ? 'lines' : 'rows'}`}</span>
        )}
      </TabList>
      <TabPanels className="min-h-0 flex-1 overflow-auto">
        <TabPanel tabIndex={-1}>
          {result?.ok === true && rows.length === 0 && (
            <p className="p-5 text-ink-2">No row matches. Loosen a condition, or look at the parameters.</p>
          )}
          {result?.ok === true && <AnswerTree rows={rows} entity={entity} view={view} />}
        </TabPanel>
        <TabPanel tabIndex={-1} className="h-full">
          {result?.ok === true && rows.length > 0 && <AnswerTable rows={rows} entity={entity} view={view} />}
        </TabPanel>
        <TabPanel>
          <pre className="p-4 font-mono text-small whitespace-pre-wrap">{json}</pre>
        </TabPanel>
      </TabPanels>
    </TabGroup>
  );
}
