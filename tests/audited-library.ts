/** A library with every form of relation behind walls that hold: kinds, pairs, paths, pointers to several entities, a mixin. */
export const AUDITED_LIBRARY = `tree 'Nothing gets round these'
  actor Player
  clock '2031-04-12 09:00'

mixin Personal
  player_id  integer

entity Branch in branches
  id    integer key
  name  text(40)
  order by name

entity Player in players
  id       integer key
  name     text(40)
  email    text(80) optional unique
  pin      text(8) optional hidden
  steward  boolean default false
  shown as name

entity Card in cards
  id      integer key
  number  text(12) unique
  uses Personal

entity Loan in loans
  id       integer key
  fee      integer default 0
  lent_on  date default today
  heavy = fee > 4

entity Thing in things abstract
  id    integer key
  name  text(40)
  kinds in single table by kind

entity Horn is Thing
  valves  integer default 3

entity Harp is Thing
  strings  integer default 40

entity Note in notes
  id    integer key
  body  text(80)

entity Ensemble in ensembles
  id    integer key
  name  text(40)

entity Seat in seats
  id     integer key
  chair  integer default 1

relation home
  Player knows one Branch as branch
  Branch knows many Player as players
  on delete restrict

relation card_of
  Card knows one Player as player
  Player knows at most one Card as card
  stored in Card.player_id
  on delete cascade

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
  on delete cascade

relation lending
  Loan knows at most one Thing as thing
  Thing knows many Loan as loans

relation keeping
  Harp knows at most one Player as keeper
  Player knows many Harp as harps

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils

relation about
  Note knows at most one Player | Ensemble as subject
  each knows many Note as notes

relation teaching
  Player knows many Ensemble as taught
  Ensemble knows many Player as teachers

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

path Branch.loans = players.loans
path Player.lent = loans.thing

wall own_branch
  Player where branch = me.branch
  Loan where borrower.branch = me.branch
  Seat where player.branch = me.branch and chair < 9
  pin Player.branch to me.branch

wall own_things
  Personal where player_id = me.id
  Loan where fee < 50
  Horn where valves < 9
  unless me.steward

wall own_horns on write
  Horn where valves > 1

query lent(fee integer)
  from Loan
  where fee >= :fee
  load borrower
    branch

query of_branch(branch Branch)
  from Player
  where branch = :branch
  load loans
  load card
  order by name

query all_loans
  from Branch
  lift own_things
  show name, count(loans) as loans
  order by name

query seated
  from Ensemble
  where any(seats)
  load seats
    player
  load teachers
  order by name

sample Branch
  north: name 'North Quay'
  south: name 'South Gate'

sample Player
  ines: name 'Ines', email 'ines@example.org', branch Branch(north)
  oskar: name 'Oskar', email 'oskar@example.org', pin '1111', branch Branch(north), mentor Player(ines)
  teo: name 'Teo', email 'teo@example.org', pin '2222', branch Branch(south), mentor Player(ines)
  guard: name 'Guard', branch Branch(south), steward true, mentor Player(teo)

sample Card
  hers: number 'C-1', player_id 1
  his: number 'C-2', player_id 2
  theirs: number 'C-3', player_id 3

sample Horn
  low: name 'Low horn', valves 3
  deep: name 'Deep horn', valves 9
  plain: name 'Plain horn', valves 1

sample Harp
  gold: name 'Gold harp', keeper Player(teo)
  pale: name 'Pale harp', keeper Player(ines)

sample Loan
  first: borrower Player(ines), thing Horn(low), fee 3
  second: borrower Player(oskar), thing Harp(gold), fee 60
  third: borrower Player(ines), thing Horn(deep), fee 5
  far: borrower Player(teo), thing Horn(low), fee 9
  away: borrower Player(guard), fee 2

sample Ensemble 3
  quartet: name 'Quartet'
  octet: name 'Octet'
  teachers 2 to 3 each

sample Seat
  near: player Player(ines), ensemble Ensemble(quartet)
  beside: player Player(teo), ensemble Ensemble(quartet)
  apart: player Player(guard), ensemble Ensemble(octet), chair 4
  last: player Player(ines), ensemble Ensemble(octet), chair 12

sample Note
  praise: body 'in time', subject Player(teo)
  blame: body 'late', subject Player(ines)
  both: body 'loud', subject Ensemble(octet)
`;
