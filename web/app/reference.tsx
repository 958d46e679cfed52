import { parse, parseQuery } from '../../core/notation/index.js';
import { Dialog } from '../parts/dialog.js';

interface Part {
  readonly title: string;
  readonly words: string;
  readonly text: string;
  /** A query's lines, which stand alone. */
  readonly query?: boolean;
}

const PARTS: readonly Part[] = [
  {
    title: 'An entity and its fields',
    words: 'A field is required unless it says optional. The table is the plural of the name, or stands behind “in”.',
    text: `entity Loan in loans
  id           integer key
  lent_on      date default today
  returned_on  date optional
  fee          decimal(6, 2) optional, note 'late by a week'
  late_days = today - lent_on
  order by lent_on desc
  index (lent_on)
  check back_after: returned_on >= lent_on`,
  },
  {
    title: 'A relation, once, as two sentences',
    words: 'The side that knows one holds the key. What is not said is filled in by a convention, and shown as such.',
    text: `relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans order by lent_on desc
  stored in Loan.borrower_id
  on delete cascade`,
  },
  {
    title: 'Many to many, with fields of its own',
    words: 'A pivot keeps each pair once, unless it says repeats. Its fields are reached by the table’s name: seats.chair.',
    text: `relation seating
  Player knows many Ensemble as ensembles
  Ensemble knows many Player as players order by seats.chair
  stored in table seats (player_id, ensemble_id)
    chair  integer
    unique (ensemble_id, chair)`,
  },
  {
    title: 'One to one, with oneself, and both ways',
    words: 'One-to-one makes the key column unique. “both ways” keeps each pair once, whoever stated it.',
    text: `relation card_of
  Card knows one Player as player
  Player knows at most one Card as card

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils

relation duets
  Player knows many Player as duet_partners, both ways`,
  },
  {
    title: 'A key of several parts',
    words: 'A role may be a part of it, and a part may be another role’s column, too. A row is Hall(1, 2).',
    text: `entity Hall in halls
  number  integer
  key (branch, number)

relation branch_halls
  Hall knows one Branch as branch
  Branch knows many Hall as halls`,
  },
  {
    title: 'What a database that was there before says',
    words: '“tables as stated” adds nothing to tables but what stands here. What has no word of the notation is kept as SQL.',
    text: `tree 'Workshop'
  tables as stated
  stored bigint as 'INTEGER'
  stored text(n) as 'varchar(n)'

entity Lute in lutes
  id     bigint key not null never reused
  label  text(40) collate NOCASE default sql('upper(''x'')')
  made   date stored as 'DATETIME'
  size   bigint generated as 'length(label)' stored
  unique (label), as index lutes_by_label
  kept 'CREATE INDEX late ON lutes (made) WHERE made > 0'`,
  },
  {
    title: 'Choices, and lines that several entities share',
    words: 'A choice is a type. A mixin’s lines are taken in with “uses”.',
    text: `choice Condition
  'mint' as 'As new'
  'worn' as 'Shows use'

mixin Dated
  created_at  timestamp default now fixed

entity Remark
  id    integer key
  body  text(400)
  uses Dated`,
  },
  {
    title: 'A scope: a condition with a name',
    words: 'It stands wherever a condition can, also behind a hop: any(loans[overdue]).',
    text: `scope overdue
  Loan where returned_on is null and due_on < today`,
  },
  {
    title: 'A query, and what is loaded along',
    words: 'Each load is one more statement, however many rows there are. Deeper loads are indented.',
    text: `from Loan
where overdue and borrower.branch = :branch
load borrower (name)
  branch (name)
load instrument
  remarks where written_at > today - 30 days
order by due_on
limit 50`,
    query: true,
  },
  {
    title: 'Conditions',
    words: 'To-many paths stand inside any( ), none( ), all( ), count( ). Nothing behind a hop is null, never fewer rows.',
    text: `from Player
where count(loans[overdue]) > 2 and none(ensembles)
where email like '%@example.org' or mentor.name is null
where all(loans[returned_on is not null])`,
    query: true,
  },
  {
    title: 'Sample rows',
    words: 'They hold to every rule, and are the same on each run. A dozen are made where nothing is said.',
    text: `sample Branch
  north: name 'North Quay'

sample Loan 400
  borrower any Player
  returned_on between '2030-10-01' and today, or null 30%`,
  },
];

const KEYS: readonly (readonly [string, string])[] = [
  ['Ctrl K', 'everything that can be done, by typing'],
  ['?', 'this sheet'],
  ['Ctrl Enter', 'run the query (Try)'],
  ['Ctrl Z, Ctrl Shift Z', 'take a change of the text back, and forth again'],
  ['Ctrl Space', 'what fits at the cursor'],
  ['F12, Ctrl click', 'go to where the word is declared; there: its uses'],
  ['F2', 'rename everywhere, and see each use'],
  ['Ctrl Shift [ and ]', 'fold a declaration, and unfold it'],
  ['Ctrl F', 'find in the text'],
  ['/', 'find an entity on the map, or filter the rows'],
  ['Tab, Enter', 'walk the labels of the map; select'],
  ['Arrows, Page up and down', 'move through the rows of a grid'],
];

/** The notation by example, and the keys. */
export function Reference({ onClose }: { onClose(): void }) {
  return (
    <Dialog title="The notation, and the keys" wide onClose={onClose}>
      <div className="columns-2 gap-8 p-6">
        <section className="mb-6 break-inside-avoid">
          <h3 className="font-serif text-[15px] font-semibold">Keys</h3>
          <dl className="mt-1.5 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1 text-small">
            {KEYS.map(([keys, words]) => (
              <div key={keys} className="contents">
                <dt className="font-mono whitespace-nowrap">{keys}</dt>
                <dd className="text-ink-2">{words}</dd>
              </div>
            ))}
          </dl>
        </section>
        {PARTS.map((part) => (
          <section key={part.title} className="mb-6 break-inside-avoid">
            <h3 className="font-serif text-[15px] font-semibold">{part.title}</h3>
            <p className="text-small text-ink-2">{part.words}</p>
            <Coloured part={part} />
          </section>
        ))}
      </div>
    </Dialog>
  );
}

function Coloured({ part: { text, query = false } }: { readonly part: Part }) {
  const { colours } = query ? parseQuery(text) : parse(text);
  return (
    <pre className="mt-1.5 border border-line bg-sheet px-3 py-2 font-mono text-small leading-relaxed whitespace-pre-wrap">
      {colours.map(({ span, class: name }, index) => (
        <span key={span.start}>
          {text.slice(colours[index - 1]?.span.end ?? 0, span.start)}
          <span className={`kin-${name}`}>{text.slice(span.start, span.end)}</span>
        </span>
      ))}
    </pre>
  );
}
