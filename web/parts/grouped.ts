/**
 * A whole number with a comma between each three digits. The platform’s own way reads its tables of languages first, for which the first
 * picture of a page would wait a tenth of a second.
 */
export function grouped(number: number): string {
  return String(number).replace(/\B(?=(\d{3})+$)/g, ',');
}
