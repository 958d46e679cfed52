/** A season of concerts behind walls that hold: keys of texts and of two parts, joined and separate tables of kinds, words on many things. */
export const SEASON = `tree 'A season behind walls'
  actor Member
  clock '2031-04-12 09:00'

entity House in houses
  code  text(10) key
  name  text(40)

entity Member in members
  code    text(10) key
  name    text(40)
  rank    integer optional
  keeper  boolean default false

entity Booking in bookings
  house_code  text(10)
  number      integer
  paid        decimal(8, 2) default 0
  key (house_code, number)

entity Line in booking_lines
  id     integer key
  what   text(40)
  price  decimal(8, 2) default 1

entity Receipt in receipts
  id    integer key
  seen  boolean default false

entity Room in rooms abstract
  id    integer key
  name  text(40)
  kinds in joined tables by kind

entity Hall in halls is Room
  seats  integer default 100

entity Studio in studios is Room
  quiet  boolean default true

entity Message in messages abstract
  id    uuid key
  body  text(80)
  kinds in separate tables

entity Letter in letters is Message
  stamp  text(20) optional

entity Call in calls is Message
  minutes  integer default 1

entity Word in words
  id    integer key
  word  text(30) unique

relation home
  Member knows one House as house
  House knows many Member as members

relation booking_of
  Booking knows one Member as member
  Member knows many Booking as bookings

relation line_of
  Line knows one Booking as booking
  Booking knows many Line as lines
  on delete cascade

relation receipt_of
  Receipt knows one Line as line
  Line knows at most one Receipt as receipt
  on delete cascade

relation room_of
  Room knows one House as house
  House knows many Room as rooms

relation letter_to
  Letter knows one Member as receiver
  Member knows many Letter as letters

relation call_to
  Call knows one Member as called
  Member knows many Call as calls

relation words_on
  Word knows many Line | Room as things
  each knows many Word as words

wall own_house
  Member where house = me.house
  Booking where member.house = me.house
  Room where house = me.house
  Line where booking.member.house = me.house
  Receipt where line.booking.member.house = me.house
  pin Member.house to me.house

wall own_post
  Letter where receiver = me
  Call where called = me
  unless me.keeper

query unpaid
  from Booking
  where paid = 0
  load lines
  load member (name)
  order by number

sample House
  east: code 'E', name 'East'
  west: code 'W', name 'West'

sample Member
  ada: code 'ada', name 'Ada', rank 3, house House(east)
  ben: code 'ben', name 'Ben', house House(west)
  cai: code 'cai', name 'Cai', rank 1, keeper true, house House(west)

sample Booking
  one: house_code 'E', number 1, member Member(ada)
  two: house_code 'W', number 1, member Member(ben), paid 12.50
  three: house_code 'W', number 2, member Member(cai)

sample Line
  first: what 'piano', booking Booking(one)
  second: what 'lamp', booking Booking(two)
  third: what 'chair', booking Booking(three)

sample Receipt
  given: line Line(first)
  kept: line Line(second)

sample Hall
  big: name 'Big hall', house House(east)
  far: name 'Far hall', house House(west)

sample Studio
  low: name 'Low studio', house House(west)

sample Letter
  hers: body 'come', receiver Member(ada)
  his: body 'go', receiver Member(ben)

sample Call
  short: called Member(cai)
  long: called Member(ben), minutes 40

sample Word 4
  things 1 to 2 each
`;
