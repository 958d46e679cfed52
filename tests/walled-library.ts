/** A library with walls on read and on write, over keys, pairs and cascades, and players of two branches. */
export const WALLED_LIBRARY = `tree 'Who writes what'
  actor Player
  clock '2031-04-12 09:00'

entity Branch in branches
  id    integer key
  name  text(40)

entity Player in players
  id       integer key
  name     text(40)
  email    text(80) optional unique
  steward  boolean default false

entity Loan in loans
  id         integer key
  fee        integer default 0
  player_id  integer

entity Remark in remarks
  id    integer key
  body  text(80)

entity Seat in seats
  id     integer key
  chair  integer default 1

entity Ensemble in ensembles
  id    integer key
  name  text(40)

relation home
  Player knows one Branch as branch
  Branch knows many Player as players
  on delete restrict

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
  stored in Loan.player_id
  on delete cascade

relation authorship
  Remark knows at most one Player as author
  Player knows many Remark as remarks_written
  on delete set null

relation about
  Remark knows at most one Loan as loan
  Loan knows many Remark as remarks
  on delete set null

relation seat_player
  Seat knows one Player as player
  Player knows many Seat as seats

relation seat_ensemble
  Seat knows one Ensemble as ensemble
  Ensemble knows many Seat as seats

relation seating
  Player knows many Ensemble as ensembles
  Ensemble knows many Player as players
  stored in Seat (player, ensemble)

relation teaching
  Player knows many Ensemble as taught
  Ensemble knows many Player as teachers

wall own_branch
  Player where branch = me.branch
  Loan where borrower.branch = me.branch
  Seat where player.branch = me.branch
  unless me.steward
  pin Player.branch to me.branch

wall own_remarks on write
  Remark where author = me
  pin Remark.author to me

sample Branch
  north: name 'North Quay'
  south: name 'South Gate'

sample Player
  ines: name 'Ines', email 'ines@example.org', branch Branch(north)
  oskar: name 'Oskar', email 'oskar@example.org', branch Branch(north)
  teo: name 'Teo', email 'teo@example.org', branch Branch(south)
  guard: name 'Guard', branch Branch(south), steward true

sample Loan
  first: player_id 1
  second: player_id 2
  far: player_id 3

sample Remark
  hers: body 'scratched', author Player(ines), loan Loan(first)
  his: body 'fine', author Player(oskar), loan Loan(first)
  theirs: body 'lost', author Player(teo), loan Loan(far)

sample Ensemble
  quartet: name 'Quartet'
  octet: name 'Octet'

sample Seat
  near: player Player(ines), ensemble Ensemble(quartet)
  away: player Player(teo), ensemble Ensemble(quartet)
`;
