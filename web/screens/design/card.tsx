import type { Card, EntityCard, RelationCard, SentenceCard, StorageCard } from '../../../core/cards/index.js';
import type { Selection } from '../../app/selection.js';
import { useAppSelector } from '../../app/store.js';
import { Sql } from '../../parts/sql.js';
import type { DesignView } from '../../workers/design-view.js';

interface CardProps {
  readonly card: Card | null;
  readonly selection: Selection | null;
  readonly view: DesignView | null;
  onSelect(selection: Selection | null): void;
}

/** The slip along the foot of the map: what is selected, in words and in SQL. */
export function CardSlip({ card, selection, view, onSelect }: CardProps) {
  if (card === null) {
    return (
      <div className="h-full overflow-auto bg-label px-5 py-4">
        {selection !== null && (
          <p className="mb-2 text-ink-2">
            {selection.name} is not in the tables: a line of it is wrong or not built yet. See the findings.
          </p>
        )}
        <p className="text-ink-2">Select an entity or a stem to see its sentences, where it is stored and why, and its SQL.</p>
        <List view={view} onSelect={onSelect} />
      </div>
    );
  }
  return (
    <article aria-label={`Card of ${card.name}`} className="h-full overflow-auto bg-label px-5 py-3">
      {card.kind === 'entity' ? <EntitySlip card={card} onSelect={onSelect} /> : <RelationSlip card={card} onSelect={onSelect} />}
    </article>
  );
}

/** The same as the map, for those who cannot use it. */
function List({ view, onSelect }: Pick<CardProps, 'view' | 'onSelect'>) {
  const of = (kind: Card['kind']) => view?.cards.filter((card) => card.kind === kind) ?? [];
  return (
    <div className="mt-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
      {(['entity', 'relation'] as const).map((kind) => (
        <div key={kind} className="contents">
          <span className="font-serif text-ink-2 italic">{kind === 'entity' ? 'Entities' : 'Relations'}</span>
          <span className="flex flex-wrap gap-x-3">
            {of(kind).map((card) => (
              <button
                key={card.name}
                type="button"
                className={`text-selected hover:underline ${kind === 'entity' ? 'font-serif font-semibold' : 'font-mono text-small'}`}
                onClick={() => onSelect({ kind, name: card.name })}
              >
                {card.name}
              </button>
            ))}
          </span>
        </div>
      ))}
    </div>
  );
}

function Heading({ children }: { readonly children: React.ReactNode }) {
  return <h3 className="mt-2.5 mb-0.5 text-small text-ink-3 first:mt-0">{children}</h3>;
}

/** What of an entity or a relation the text has and the database has not. */
function useAbsent(owner: string): readonly string[] {
  const database = useAppSelector((state) => state.workspace.database);
  if (database?.status !== 'ready') return [];
  return database.absent
    .filter((part) => part.owner === owner)
    .map(({ table, column }) => (column === null ? `table ${table}` : `${table}.${column}`));
}

function Absent({ parts }: { readonly parts: readonly string[] }) {
  if (parts.length === 0) return null;
  return <p className="text-to-many">▲ Not in this database: {parts.join(', ')}</p>;
}

function SqlBox({ heading, sql }: { readonly heading: string; readonly sql: string }) {
  return (
    <>
      <Heading>{heading}</Heading>
      <div className="border border-line bg-sheet p-3">
        <Sql text={sql} label={heading} />
      </div>
    </>
  );
}

function EntitySlip({ card, onSelect }: { readonly card: EntityCard } & Pick<CardProps, 'onSelect'>) {
  const database = useAppSelector((state) => state.workspace.database);
  const ready = database?.status === 'ready' ? database : null;
  const rows = ready?.rows[card.table.text];
  const absent = useAbsent(card.name);
  return (
    <>
      <header className="flex items-baseline gap-3">
        <h2 className="font-serif text-title font-semibold">{card.name}</h2>
        <Stored storage={card.table} />
        {rows !== undefined && <span className="text-small text-ink-2">{rows.toLocaleString('en')} rows</span>}
      </header>
      {card.note !== null && <p className="text-ink-2">{card.note}</p>}
      <Absent parts={absent} />
      <div className="mt-2 grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-6">
        <div>
          {card.sentences.length > 0 && <Heading>Relations</Heading>}
          <Sentences sentences={card.sentences} onSelect={onSelect} />
          <Heading>Fields</Heading>
          <table className="w-full font-mono text-small">
            <tbody>
              {card.fields.map((field) => (
                <tr key={field.name} className="border-b border-line align-baseline last:border-0">
                  <td className="py-0.5 pr-3">{field.name}</td>
                  <td className="pr-3 text-to-one">{field.type}</td>
                  <td className="text-ink-2">
                    {field.marks.join(', ')}
                    {field.column !== '' && field.column !== field.name && ` column ${field.column}`}
                    {field.note !== null && <span className="font-sans italic"> {field.note}</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <div>
          <SqlBox heading="SQL, for SQLite" sql={card.sql} />
        </div>
      </div>
    </>
  );
}

function RelationSlip({ card, onSelect }: { readonly card: RelationCard } & Pick<CardProps, 'onSelect'>) {
  const absent = useAbsent(card.name);
  return (
    <>
      <header className="flex items-baseline gap-3">
        <h2 className="font-serif text-title font-semibold">{card.name}</h2>
        <span className="text-ink-2">{card.form}</span>
      </header>
      {card.note !== null && <p className="text-ink-2">{card.note}</p>}
      <Absent parts={absent} />
      <div className="mt-2 grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-6">
        <div>
          <Sentences sentences={card.sentences} onSelect={onSelect} />
          <Heading>Stored in</Heading>
          <ul>
            {card.storage.map((part) => (
              <li key={part.text}>
                <Stored storage={part} />
              </li>
            ))}
          </ul>
          {card.deletes.map((rule) => (
            <div key={rule.when}>
              <Heading>{rule.when}</Heading>
              <p>
                {rule.then}{' '}
                <span className={rule.rule === 'cascade' ? 'text-harm' : 'text-ink-2'}>
                  ({rule.rule}
                  {rule.stated ? '' : ', by convention'})
                </span>
              </p>
            </div>
          ))}
        </div>
        <div>
          <SqlBox heading="SQL, for SQLite" sql={card.sql} />
          {card.joins.map(({ from, sql }) => (
            <SqlBox key={from} heading={`Joined from ${from}`} sql={sql} />
          ))}
        </div>
      </div>
    </>
  );
}

function Stored({ storage }: { readonly storage: StorageCard }) {
  return (
    <span>
      <span className="font-mono text-small">{storage.text}</span>{' '}
      <span className={`text-small ${storage.stated ? 'text-ink-3' : 'text-ink-2 italic'}`}>· {storage.why}</span>
    </span>
  );
}

function Sentences({ sentences, onSelect }: { readonly sentences: readonly SentenceCard[] } & Pick<CardProps, 'onSelect'>) {
  const article = (name: string) => (/^[AEIOU]/.test(name) ? 'An' : 'A');
  const link = 'border-b border-selected text-selected hover:bg-wash';
  return (
    <ul className="font-serif leading-6">
      {sentences.map((sentence) => (
        <li key={`${sentence.relation} ${sentence.role}`}>
          {article(sentence.subject)} {sentence.subject} knows{' '}
          <button
            type="button"
            className={`${sentence.knows === 'many' ? 'text-to-many' : 'text-to-one'} hover:underline`}
            title={`relation ${sentence.relation}`}
            onClick={() => onSelect({ kind: 'relation', name: sentence.relation })}
          >
            {sentence.knows}
          </button>{' '}
          <button type="button" className={link} onClick={() => onSelect({ kind: 'entity', name: sentence.target })}>
            {sentence.target}
          </button>{' '}
          as <strong>{sentence.role}</strong>
          {sentence.bothWays && ', both ways'}.
        </li>
      ))}
    </ul>
  );
}
