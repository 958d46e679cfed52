/** The ends of a double, in the digits that the notation has. */
const LARGEST = `17976931348623157${'0'.repeat(292)}`;
const SMALLEST = `0.${'0'.repeat(323)}5`;

/** A text whose rows hold values chosen to hurt: the ends of every type, and what engines are known to differ in. */
export const HURTING = `tree 'Hurting'
  clock '2031-04-12 09:00'

choice Wear
  'as new'
  'it''s worn'
  'É'

entity Item
  id     integer key
  name   text
  short  text(40) optional
  small  integer optional
  large  bigint optional
  price  decimal(15, 2) optional
  long   decimal(30, 4) optional
  vast   decimal(30, 0) optional
  ratio  real optional
  sound   boolean optional
  wear   Wear optional
  on     date optional
  at_    time optional
  when_  timestamp optional
  code   uuid optional
  data   json optional
  raw    bytes optional
  lowered = lower(name)
  raised = upper(name)
  letters = length(name)
  trimmed = trim(name)
  head = substr(name, 1, 3)
  tail = substr(name, -3)
  tail_part = substr(name, -3, 2)
  far = substr(name, -30, 29)
  none_ = substr(name, 2, -1)
  swapped = replace(name, 'a', 'bb')
  twice = small * 2
  half = small / 2
  rest = small % 7
  back = - small
  nothing = small / (small - small)
  dearer = price * 1.10
  plus = price + 0.20
  minus = price - 0.01
  share = price / 3
  left_over = price % 7
  rounded = round(ratio, 2)
  whole = round(ratio)
  rounded_price = round(price, 1)
  size = abs(small)
  least_ = least(small, 5)
  most_ = greatest(small, twice, 5)
  some = coalesce(short, name)
  month = case when on > '0002-01-01' and on < '9998-01-01' then on + 1 month end
  before = case when on > '0002-01-01' and on < '9998-01-01' then on - 1 year end
  weeks = case when on > '0002-01-01' and on < '9998-01-01' then on + 2 weeks end
  later = case when when_ > '0002-01-01' and when_ < '9998-01-01' then when_ + 90 minutes end
  month_later = case when when_ > '0002-01-01' and when_ < '9998-01-01' then when_ + 1 month end
  clock_ = at_ + 3 hours
  days = on - today
  line = name || '/' || coalesce(short, '-')
  facts = small || ' ' || price || ' ' || sound || ' ' || on || ' ' || at_ || ' ' || when_ || ' ' || code || ' ' || raw
  longer = long + 1
  longer_still = long * 1.5 - price
  shorter = - long
  bare = abs(long)
  long_rest = long % 7
  long_rounded = round(long, 2)
  long_share = long / 3
  long_least = least(long, price, 3)
  long_most = greatest(long, large, vast)
  long_some = coalesce(long, vast, small)
  finer = coalesce(price, 0.125)
  area = price * price
  cubic = price * small * large
  told_long = 'so ' || long || ', ' || (long + vast) || ', ' || coalesce(price, 0)
  told_ratio = '' || ratio
  told_rounded = 'Total: ' || round(ratio, 2) || ', ' || round(price, 1) || ', ' || price * 3
  told_share = '' || price / 3
  level = case when small > 0 then 'more' when small < 0 then 'less' else 'none' end

entity Pair
  id     integer key
  label  text(20)

relation pairing
  Pair knows at most one Item as item
  Item knows many Pair as pairs order by label desc

sample Item
  a: name 'a', small 0, large 0, price 0, long 0, ratio 0, sound false, wear 'as new', on '0001-01-01', at_ '00:00', when_ '0001-01-01 00:00', code '00000000-0000-0000-0000-000000000000', data '{}', raw ''
  b: name 'A ', short '', small 2147483647, large 9223372036854775807, price 9999999999999.99, long 99999999999999999999999999.9999, vast 123456789012345678901234567890, ratio ${LARGEST}, sound true, wear 'it''s worn', on '9999-12-31', at_ '23:59:59.999999', when_ '9999-12-31 23:59:59.999999', code 'ffffffff-ffff-ffff-ffff-ffffffffffff', data '[]', raw '00ff'
  c: name ' a', short ' ', small -2147483648, large -9223372036854775808, price -9999999999999.99, long -99999999999999999999999999.9999, ratio -${LARGEST}, sound true, wear 'É', on '2032-02-29', at_ '12:00', when_ '2032-02-29 12:00:00.000001', code '6ba7b810-9dad-11d1-80b4-00c04fd430c8', data '"text"', raw 'deadbeef'
  d: name 'É', short 'E', small 1, large 9007199254740993, price 0.10, long 0.0001, ratio 0.1, sound false, on '2031-01-31', at_ '09:30:15.5', when_ '2031-01-31 23:59:59.5', code '6ba7b810-9dad-41d1-80b4-00c04fd430c7', data '{"b":[1,2.5,null],"a":"É"}', raw '27'
  e: name 'E', short 'é', small -1, large -9007199254740993, price 0.20, long -0.0001, ratio 0.30000000000000004, on '2030-12-31', at_ '00:00:00.000001', when_ '1970-01-01', code '00000000-0000-0000-0000-00000000ffff', data '1e3', raw '5c'
  f: name 'é', short 'É', small 7, large 1, price 2.50, long 12345678901234567890.1234, ratio ${SMALLEST}, on '2000-02-29', at_ '20:59:59', when_ '2000-02-29 00:00', data 'true'
  g: name '🎵', short '🎵🎵', small -7, large -1, price 1.05, ratio 1.005, on '1900-02-28', at_ '21:00', when_ '1999-12-31 23:59:59.999999', data 'null'
  h: name 'it''s "quoted" \`so\`', short '\\', small 13, price 1.15, ratio 2.5, data '"\\\\"'
  i: name 'back\\slash \\n \\t %_', short '%', small -13, price -1.15, ratio -2.5
  j: name 'a', short 'a ', small 5, price 0.30, ratio -0.5
  k: name '', small 100000, price 1234567.89, ratio 123456789.125
  l: name 'zß', short 'ẞ', ratio 1000000000000000000000, price 0.01
  m: name 'Z', short 'z', ratio -0.0, price -0.01
  n: name 'nothing'

sample Pair
  p1: label 'x', item Item(a)
  p2: label 'X', item Item(a)
  p3: label 'É', item Item(b)
  p4: label 'e', item Item(b)
  p5: label 'y '
  p6: label 'y'
`;

/** Questions about them, whose answers every engine has to give alike. */
export const HURTING_QUERIES: readonly string[] = [
  'from Item\nload pairs',
  'from Pair\nload item',
  ...[
    'name',
    'short',
    'small',
    'large',
    'price',
    'long',
    'vast',
    'longer_still',
    'area',
    'ratio',
    'sound',
    'wear',
    'on',
    'at_',
    'when_',
    'code',
    'lowered',
    'line',
    'days',
  ].flatMap((field) => [`from Item\norder by ${field}`, `from Item\norder by ${field} desc`]),
  ...[
    "name = 'a'",
    "name = 'A'",
    "name = 'a '",
    "name <> 'É'",
    "name > 'Z'",
    "name in ('a', 'é', ' a')",
    "name like 'a%'",
    "name like '%\\%\\_'",
    "name like '_'",
    "name like '%\\\\'",
    "short like '\\\\'",
    'short like short',
    "name like '%' || short",
    "name like short || '%'",
    "name like 'É'",
    "short = ''",
    "short = '\\'",
    'short is null',
    "lower(name) = 'É'",
    "lower(name) = 'a'",
    "name || 'x' = 'ax'",
    'small + 1 > 2147483646',
    'small * small > 100',
    'large > 9007199254740992',
    'large = 9007199254740993',
    'long = 0.0001',
    'long <> 0.0001',
    'long > 12345678901234567890.1233',
    'long < -0.00009',
    'long between -0.0001 and 0.0001',
    'long not between -1 and 99999999999999999999999999.9998',
    'long in (0.0001, 12345678901234567890.1234)',
    'long > vast',
    'long < price',
    'long + 1 = 1.0001',
    'long * 2 > large',
    'vast = 123456789012345678901234567890',
    'price * price = 99999999999999800000000000000.0001',
    'price * 1000000.01 > 9999999999999990099999999.99',
    "'' || long like '%.0000'",
    'price + 0.20 = 0.30',
    'price * 3 = 0.30',
    'price = 9999999999999.99',
    'price between 0.1 and 0.3',
    'price / 2 > 0.1',
    'ratio = 0.1',
    'ratio > 0.3',
    'ratio < 0.0000001',
    'ratio = 0',
    'sound',
    'not sound',
    'sound = true or sound is null',
    "wear = 'É'",
    "wear in ('as new', 'it''s worn')",
    "on = '2032-02-29'",
    "on + 1 month = '2031-02-28'",
    "on - 1 year < '2000-01-01'",
    'on - today > 0',
    'on = today - 71 days',
    "at_ >= '20:59:59'",
    "at_ + 3 hours < '01:00'",
    "when_ < '1970-01-01 00:00:01'",
    "when_ + 1 month = '2031-02-28 23:59:59.5'",
    'when_ > now',
    "code = '6BA7B810-9dad-11d1-80b4-00c04fd430c8'",
    "code > '00000000-0000-0000-0000-00000000fffe'",
    'any(pairs)',
    "any(pairs[label = 'x'])",
    "none(pairs[label = 'É'])",
    "all(pairs[label > 'a'])",
    'count(pairs) = 2',
    'small between -7 and 7 and not (small = 0)',
    'case when small is null then sound else true end',
    'coalesce(small, 0) % 5 = 0',
    'length(name) = 1',
    "substr(name, -1) = 'a'",
    'least(small, 3) = 3',
    'greatest(price, 1) = 1',
    'round(price, 1) = 1.2',
    'abs(price) = 1.15',
  ].map((condition) => `from Item\nwhere ${condition}`),
];
