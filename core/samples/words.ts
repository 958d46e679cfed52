import type { Chance } from './random.js';

/** Words to make texts of. All of it made up. */
const GIVEN = [
  'Ines',
  'Omar',
  'Rosa',
  'Teo',
  'Wilma',
  'Ansel',
  'Bruna',
  'Corin',
  'Dalia',
  'Emil',
  'Fenna',
  'Gustav',
  'Hale',
  'Irma',
  'Jonas',
  'Kalla',
  'Leif',
  'Mira',
  'Nils',
  'Orla',
  'Petra',
  'Quin',
  'Runa',
  'Sven',
  'Tilda',
  'Ulrik',
  'Vera',
  'Wanda',
  'Yara',
  'Zeno',
];
const FAMILY = [
  'Quill',
  'Marsh',
  'Tarn',
  'Oake',
  'Fenwick',
  'Holm',
  'Brandt',
  'Sorrel',
  'Vane',
  'Larch',
  'Ferren',
  'Thistle',
  'Moss',
  'Adler',
  'Crane',
  'Dell',
  'Ember',
  'Garrow',
  'Heath',
  'Ivers',
];
const PLACES = [
  'North Quay',
  'South Gate',
  'Mill Lane',
  'Harbour Row',
  'Upper Green',
  'Cinder Row',
  'Weir End',
  'Orchard Hill',
  'Glasshouse',
  'Old Ropewalk',
  'Kiln Yard',
  'Chapel Steps',
];
const THINGS = [
  'bridge',
  'reed',
  'bow',
  'peg',
  'case',
  'strap',
  'mouthpiece',
  'string',
  'pad',
  'valve',
  'neck',
  'bell',
  'key',
  'mute',
  'stand',
  'folio',
];
const STATES = [
  'reset',
  'holds its pitch',
  'slips a little',
  'was replaced',
  'needs a look',
  'is as new',
  'shows wear',
  'sounds warm',
  'came back late',
  'is on the bench',
];
const TITLES = [
  'Tidewater',
  'Copper',
  'Lantern',
  'Evening',
  'Long Meadow',
  'Winter',
  'Harvest',
  'Saltmarsh',
  'Foundry',
  'Riverside',
  'Small Hours',
  'Bramble',
];
const GROUPS = ['Quartet', 'Winds', 'Strings', 'Players', 'Consort', 'Ensemble', 'Band', 'Trio', 'Octet', 'Orchestra'];

/** A text that looks like what a field of this name holds. */
export function textFor(field: string, chance: Chance): string {
  const pick = (words: readonly string[]) => chance.pick(words) ?? '';
  const name = field.toLowerCase();
  if (/e?mail/.test(name)) return `${pick(GIVEN)}.${pick(FAMILY)}@example.org`.toLowerCase();
  if (/phone|telephone/.test(name)) return `0${chance.between(100, 999)} ${chance.between(100000, 999999)}`;
  if (/url|link|website/.test(name)) return `https://example.org/${pick(THINGS)}-${chance.between(1, 99)}`;
  if (/path|file|portrait|photo|image/.test(name)) return `${pick(THINGS)}-${chance.between(1, 999)}.jpg`;
  if (/town|city|place|street|address|branch|room|venue|location/.test(name)) return pick(PLACES);
  if (/maker|firm|company|brand/.test(name)) return `${pick(FAMILY)} & ${pick(FAMILY)}`;
  if (/title|ensemble|concert|work|piece/.test(name)) return `${pick(TITLES)} ${pick(GROUPS)}`;
  if (/code|number|serial|sku|slug|reference/.test(name))
    return `${pick(TITLES).slice(0, 2).toUpperCase()}-${chance.between(100, 9999)}`;
  if (/colou?r/.test(name)) return pick(['amber', 'umber', 'black', 'walnut', 'honey', 'silver']);
  if (/name|player|person|author/.test(name)) return `${pick(GIVEN)} ${pick(FAMILY)}`;
  if (/label|tag|genre|kind|type|category/.test(name)) return pick(THINGS);
  const thing = pick(THINGS);
  return `${(thing[0] ?? '').toUpperCase()}${thing.slice(1)} ${pick(STATES)}`;
}
