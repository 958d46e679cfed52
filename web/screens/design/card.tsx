import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { Card, EntityCard, RelationCard, SentenceCard, StorageCard } from '../../../core/cards/index.js';
import type { DeleteRule } from '../../../core/notation/index.js';
import { rowsLink, tryLink, useGo } from '../../app/links.js';
import type { Selection } from '../../app/selection.js';
import { useAppSelector } from '../../app/store.js';
import { useClick } from '../../app/use-click.js';
import { grouped } from '../../parts/grouped.js';
import { Choice } from '../../parts/menu.js';
import { Sql } from '../../parts/sql.js';
import { Fields } from './fields.js';
import { KindsCompared } from './kinds-compared.js';
import { RelationRows } from './relation-rows.js';

const NONE: readonly never[] = [];

interface CardProps {
  readonly card: Card | 'asked' | null;
  readonly selection: Selection | null;
  onSelect(selection: Selection | null): void;
}

/** The slip along the foot of the map: what is selected, in words and in SQL. */
export function CardSlip({ card, selection, onSelect }: CardProps) {
  if (card === 'asked') return <div className="h-full bg-label px-5 py-4 text-ink-2">Reading its card…</div>;
  if (card === null) {
    return (
      <div className="h-full overflow-auto bg-label px-5 py-4 text-ink-2">
        {selection !== null &&
          `${selection.name} is not in the tables: a line of it is wrong or not built yet. See the findings.`}
      </div>
    );
  }
  return (
    <article aria-label={`Card of ${card.name}`} className="h-full overflow-auto bg-label px-5 py-3">
      {card.kind === 'entity' ? (
        <EntitySlip card={card} onSelect={onSelect} />
      ) : (
        <RelationSlip key={card.name} card={card} onSelect={onSelect} />
      )}
    </article>
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

/** What the SQL of the cards is written for. */
function useDialect(): string {
  return useAppSelector((state) => state.workspace.view?.dialect ?? 'SQLite');
}

function SqlBox({
  heading,
  sql,
  onTry,
}: {
  readonly heading: string;
  readonly sql: string;
  readonly onTry?: (() => void) | undefined;
}) {
  return (
    <>
      <div className="flex items-baseline">
        <Heading>{heading}</Heading>
        {onTry !== undefined && (
          <button type="button" className="ml-auto text-small text-selected hover:underline" onClick={onTry}>
            try it
          </button>
        )}
      </div>
      <div className="border border-line bg-sheet p-3">
        <Sql text={sql} label={heading} />
      </div>
    </>
  );
}

function EntitySlip({ card, onSelect }: { readonly card: EntityCard } & Pick<CardProps, 'onSelect'>) {
  const dialect = useDialect();
  const database = useAppSelector((state) => state.workspace.database);
  const ready = database?.status === 'ready' ? database : null;
  // A table that several kinds stand in has not the rows of this one alone.
  const rows = card.kinds === null ? ready?.rows[card.table.text] : undefined;
  const absent = useAbsent(card.name);
  const { tree = '' } = useParams();
  return (
    <>
      <header className="flex items-baseline gap-3">
        <h2 className="font-serif text-title font-semibold">{card.name}</h2>
        <Stored storage={card.table} />
        {card.given && (
          <span className="text-to-many" title="The table is somebody else’s: it is read, and nothing is ever put on it.">
            given
          </span>
        )}
        <OwnFindings card={card} />
        <Link to={rowsLink(tree, card.name)} className="ml-auto rounded-sm border border-line-2 px-2.5 py-0.5 hover:border-ink-3">
          {rows === undefined ? 'Rows' : `${grouped(rows)} rows`}
        </Link>
      </header>
      {card.note !== null && <p className="text-ink-2">{card.note}</p>}
      <Absent parts={absent} />
      <div className="mt-2 grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-6">
        <div>
          <KindLines card={card} onSelect={onSelect} />
          {card.sentences.length > 0 && <Heading>Relations</Heading>}
          <Sentences sentences={card.sentences} onSelect={onSelect} />
          <Paths card={card} onSelect={onSelect} />
          <Walls card={card} />
          <Heading>Fields</Heading>
          <Fields card={card} />
        </div>
        <div>
          {card.given ? (
            <p className="text-ink-2">
              The table is somebody else’s: it can be related to, joined and loaded, and no script makes or changes it.
            </p>
          ) : (
            <SqlBox heading={`SQL, for ${dialect}`} sql={card.sql} />
          )}
        </div>
      </div>
      {card.kinds !== null && card.kinds.base === null && <KindsCompared base={card.name} />}
    </>
  );
}

const STORED_KINDS: Readonly<Record<NonNullable<EntityCard['kinds']>['storage']['kind'], string>> = {
  'single table': 'all in one table',
  'joined tables': 'what all have in one table, what a kind has of its own in another, joined by the key',
  'separate tables': 'each concrete kind in a table of its own',
  json: 'all in one table, what a kind has of its own in a column of JSON',
};

/** What an entity is among the kinds of a base, and how they are stored. */
function KindLines({ card, onSelect }: { readonly card: EntityCard } & Pick<CardProps, 'onSelect'>) {
  const { kinds } = card;
  if (kinds === null) return null;
  const link = (name: string) => (
    <button
      key={name}
      type="button"
      className="border-b border-kinds text-kinds hover:bg-wash"
      onClick={() => onSelect({ kind: 'entity', name })}
    >
      {name}
    </button>
  );
  return (
    <>
      <Heading>Kinds</Heading>
      <p className="font-serif leading-6">
        {kinds.base !== null && (
          <>
            It is a {link(kinds.base)}
            {kinds.mark !== null && (
              <>
                , marked <span className="font-mono text-small">'{kinds.mark}'</span>
              </>
            )}
            .{' '}
          </>
        )}
        {kinds.kinds.length > 0 && (
          <>
            {kinds.abstract ? 'Every row is one of its kinds: ' : 'Some rows are of its kinds: '}
            {kinds.kinds.map((name, index) => (
              <span key={name}>
                {index > 0 && ', '}
                {link(name)}
              </span>
            ))}
            .{' '}
          </>
        )}
        <span className="text-ink-2">
          Stored {STORED_KINDS[kinds.storage.kind]}
          {'mark' in kinds.storage && `; ${kinds.storage.mark} says which`}.
        </span>
      </p>
    </>
  );
}

function Paths({ card, onSelect }: { readonly card: EntityCard } & Pick<CardProps, 'onSelect'>) {
  if (card.paths.length === 0) return null;
  return (
    <>
      <Heading>Paths</Heading>
      <ul className="leading-6">
        {card.paths.map((path) => (
          <li key={path.name}>
            <strong className="font-serif">{path.name}</strong>{' '}
            <span className={`text-small ${path.many ? 'text-to-many' : 'text-to-one'}`}>
              {path.many ? 'many' : 'at most one'}
            </span>{' '}
            <button
              type="button"
              className="border-b border-selected font-serif text-selected hover:bg-wash"
              onClick={() => onSelect({ kind: 'entity', name: path.target })}
            >
              {path.target}
            </button>{' '}
            <span className="font-mono text-small text-ink-2">{path.text}</span>
          </li>
        ))}
      </ul>
    </>
  );
}

function Walls({ card }: { readonly card: EntityCard }) {
  if (card.walls.length === 0) return null;
  return (
    <>
      <Heading>Walls</Heading>
      <ul className="leading-6">
        {card.walls.map(({ name, on, lines, unless }) => (
          <li key={name}>
            <strong className="font-mono text-small">{name}</strong>{' '}
            {on !== null && <span className="text-small text-ink-2">on {on} </span>}
            <span className="font-mono text-small">{lines.join(' and ')}</span>
            {unless.length > 0 && <span className="text-small text-ink-2"> unless {unless.join(' or ')}</span>}
          </li>
        ))}
      </ul>
    </>
  );
}

function RelationSlip({ card, onSelect }: { readonly card: RelationCard } & Pick<CardProps, 'onSelect'>) {
  const dialect = useDialect();
  const absent = useAbsent(card.name);
  const go = useGo();
  const click = useClick();
  const [problems, setProblems] = useState<readonly string[]>([]);
  return (
    <>
      <header className="flex items-baseline gap-3">
        <h2 className="font-serif text-title font-semibold">{card.name}</h2>
        <span className="text-ink-2">{card.form}</span>
        <OwnFindings card={card} />
      </header>
      {card.note !== null && <p className="text-ink-2">{card.note}</p>}
      <Absent parts={absent} />
      <div className="mt-1.5 grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-6">
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
          {card.deletes.map((rule, index) => (
            <div key={rule.when}>
              <Heading>{rule.when}</Heading>
              <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
                <span className={rule.rule === 'cascade' ? 'text-harm' : ''}>{rule.then}</span>
                {index === 0 ? (
                  <Choice
                    label="On delete"
                    value={rule.rule}
                    options={RULES}
                    shown={(option) => (option === rule.rule && !rule.stated ? `${option}, by convention` : option)}
                    onChange={(chosen) =>
                      void click({ kind: 'on delete', relation: card.name, rule: chosen }, `on delete ${chosen}`).then(
                        setProblems,
                      )
                    }
                  />
                ) : (
                  <span className="text-small text-ink-2">{rule.rule}</span>
                )}
              </div>
              {index === 0 &&
                problems.map((problem) => (
                  <p key={problem} role="alert" className="text-small text-harm">
                    {problem}
                  </p>
                ))}
            </div>
          ))}
        </div>
        <div>
          <RelationRows card={card} />
          {card.joins.map(({ from, role, sql }) => (
            <SqlBox
              key={`${from} ${role}`}
              heading={role === null ? `Joined from ${from}` : `Joined from ${from}, over ${role}`}
              sql={sql}
              onTry={role === null ? undefined : () => go((tree) => tryLink(tree, `from ${from}\nload ${role}\nlimit 50`))}
            />
          ))}
          <SqlBox heading={`SQL, for ${dialect}`} sql={card.sql} />
        </div>
      </div>
    </>
  );
}

const RULES: readonly DeleteRule[] = ['restrict', 'cascade', 'set null', 'no action'];

/** What is wrong or doubtful in the lines of what is selected. */
function OwnFindings({ card }: { readonly card: Card }) {
  const findings = useAppSelector((state) => state.workspace.view?.findings ?? NONE);
  const own = findings.filter(({ span }) => span.start >= card.span.start && span.end <= card.span.end);
  const [first] = own;
  if (first === undefined) return null;
  return (
    <span
      className={first.weight === 'error' ? 'text-harm' : 'text-to-many'}
      title={own.map(({ message }) => message).join('\n')}
    >
      ▲ {own.length === 1 ? first.code.replaceAll('-', ' ') : `${own.length} findings`}
    </span>
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
        <li key={`${sentence.relation} ${sentence.subject} ${sentence.role}`}>
          {article(sentence.subject)} {sentence.subject} knows{' '}
          <button
            type="button"
            className={`${sentence.knows === 'many' ? 'text-to-many' : 'text-to-one'} hover:underline`}
            title={`relation ${sentence.relation}`}
            onClick={() => onSelect({ kind: 'relation', name: sentence.relation })}
          >
            {sentence.knows}
          </button>{' '}
          {sentence.targets.map((target, index) => (
            <span key={target}>
              {index > 0 && ' or '}
              <button type="button" className={link} onClick={() => onSelect({ kind: 'entity', name: target })}>
                {target}
              </button>
            </span>
          ))}{' '}
          as <strong>{sentence.role}</strong>
          {sentence.bothWays && ', both ways'}.
        </li>
      ))}
    </ul>
  );
}
