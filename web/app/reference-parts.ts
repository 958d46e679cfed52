/** A part of the notation, by example. */
export interface Part {
  readonly title: string;
  readonly words: string;
  readonly text: string;
  /** A query's lines, which stand alone. */
  readonly query?: boolean;
  /** Commands, a line each. */
  readonly commands?: boolean;
}

/** The notation, each part by an example that stands for itself. */
export const PARTS: readonly Part[] = [
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
    title: 'A role to one of several',
    words:
      'By type and id, kept by triggers; or with a key column for each. “each” gives all of them the same role back. What is stored as the type may be said.',
    text: `relation remark_subject
  Remark knows one Instrument | Ensemble | Hall as subject
  each knows many Remark as remarks
  stored in Remark.subject_type with Remark.subject_id
    Hall marked 'room'

relation photo_of
  Photo knows at most one Player | Hall as shows
  stored in one of Photo.player_id, Photo.hall_id`,
  },
  {
    title: 'Many to many of several',
    words: 'A pivot with a key on one side, and on the other type and id, or a key column for each.',
    text: `relation tagging
  Tag knows many Instrument | Piece as things
  each knows many Tag as tags
  stored in table taggings (tag_id, thing_type with thing_id)

relation keeping
  Player knows many Instrument | Piece as kept
  stored in table keepings (player_id, (instrument_id, piece_id))`,
  },
  {
    title: 'Kinds of one thing',
    words:
      'In a single table, in joined tables, in separate tables, or in json. A base is read as each row’s own kind. Kinds may have kinds, and relations of their own.',
    text: `entity Instrument in instruments abstract
  id     integer key
  maker  text(80)
  kinds in single table by kind

entity StringInstrument is Instrument marked 'string'
  string_count  integer
  check counted: string_count between 3 and 24

entity Harp is StringInstrument
  pedals  integer`,
  },
  {
    title: 'A pivot that is an entity',
    words: 'Where a pair deserves a name: the two roles that lead to its ends stand behind it. It may serve several relations.',
    text: `relation seat_player
  Seat knows one Player as player
  Player knows many Seat as seats

relation seat_ensemble
  Seat knows one Ensemble as ensemble
  Ensemble knows many Seat as seats

relation seating
  Player knows many Ensemble as ensembles
  Ensemble knows many Player as players
  stored in Seat (player, ensemble)`,
  },
  {
    title: 'A path: a relation through others',
    words: 'Loaded, counted and filtered like any role; each end once. “first” needs an order, and leads to one.',
    text: `path Branch.loans = players.loans
path Player.open_loans = loans[returned_on is null]
path Player.last_loan = loans order by lent_on desc first
path Branch.strings = (players.loans.instrument as StringInstrument)`,
  },
  {
    title: 'What comes along, what no constraint holds, what is given',
    words:
      'A rule may walk relations; it is checked on rows. What is always loaded must not lead back to itself without “once”. A given table is somebody else’s: never made or changed.',
    text: `entity Loan
  id       integer key
  lent_on  date
  always load borrower once
  rule bought_by_then: instrument.bought_on <= lent_on

entity Policy in insurer_policies given
  number  text(12) key`,
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
    title: 'A flat answer: what is shown, of rows or of groups',
    words:
      'Aggregates of related rows take a path to many and a value: sum(loans.fee); each row counts once. In a group they take a value of the row, and count(*) its rows. Other lines use the names that are given.',
    text: `from Loan
group by borrower.branch.name
show borrower.branch.name as branch, count(*) as loans, max(due_on) as last
having loans > 10
order by loans desc`,
    query: true,
  },
  {
    title: 'Values that are given, and rows by a unique field',
    words:
      'Declared behind the query’s name: wanted many Condition, who Player. A list stands behind “in” alone. A row is named by its key or by what is unique; a value behind a condition is nothing where that does not hold.',
    text: `from Loan
where instrument.condition in :wanted
where borrower = :who or borrower = Player[email = 'ines@example.org']
show borrower[steward].name as steward, instrument.name as lent`,
    query: true,
  },
  {
    title: 'Ways to load, and what a page reads',
    words:
      'Each load by batch (one more statement), by join, by json (in the same statement), or by row; the answer is the same. A limit is per owner; “first” and “one” give one row in place of a list. “reads” is held against what is loaded.',
    text: `from Player
load loans order by lent_on desc limit 3
  instrument (name) by join
load branch (name) by json
reads name, loans.due_on, loans.instrument.name`,
    query: true,
  },
  {
    title: 'Asking of kinds, and of several',
    words:
      '“is a” tells what a row is, or what is pointed at; with nothing before it, the row that is asked for. “as” goes on from it. Rows of others are not lost.',
    text: `from Remark
where subject is a Hall and (subject as Hall).seats > 100
where subject is not null
load subject
load (subject as StringInstrument).strung_by`,
    query: true,
  },
  {
    title: 'Commands, in Try and on the command line',
    words:
      'All of them or none. A name before “=” stands for its row in the lines after it; children stand in brackets; the owner of a role is filled in. A row is named by its key, its name, or what is true of it.',
    text: `x = create Player with name 'Ines', branch Branch(1), loans: (instrument Instrument(7), due_on today + 21 days)
find or create Player[email = 'omar@example.org'] with name 'Omar', branch Branch(2)
create or update Player(x).cards[number = 'C-118'] with expires_on '2032-01-01'
link Player(x).ensembles to Ensemble(2), Ensemble(5) with chair 4
update Loan[overdue] with due_on due_on + 7 days
delete Player(3).loans[returned_on is not null]
update Reservation(4) with note_text lines('please ring first', 'after six')`,
    commands: true,
  },
  {
    title: 'What is expected',
    words:
      'Of a saved query with its values: how many rows and statements, what is true of every row, or of none, or that it fails. Of a command: that it is done, or refused; it is taken back. Held in Findings, beside the query, and by “family-tree check --db”.',
    text: `expect overdue_by_branch(Branch(north))
  statements at most 5
  every row returned_on is null
  no row due_on > today

expect delete Branch(north)
  refused`,
  },
  {
    title: 'A finding that is meant so',
    words:
      'It is silent from then on, and the text says why. Of one line, of all of an entity or relation, or of the whole tree.',
    text: `meant number_code of Player.phone: 'Digits alone, and never computed with.'

meant searched_text: 'Few rows, read whole.'`,
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
