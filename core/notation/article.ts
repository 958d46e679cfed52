/**
 * `an Ensemble`, `a Unit`, `an Hour`: a noun behind its indefinite article, which goes by how the noun begins when
 * it is spoken.
 */
export function withArticle(noun: string): string {
  return `${VOWEL.test(noun) ? 'an' : 'a'} ${noun}`;
}

const VOWEL = /^(?:(?!eu|one|once|uni(?!m|n)|us[aeu]|ut[ei]|ub[io])[aeiou]|hour|heir|honou?r|honest)/i;
