const FIRST = '0001-01-01T00:00:00.000Z';
const LAST = '9999-12-31T23:59:59.999Z';
const MILLISECONDS: Readonly<Record<string, number>> = {
  minute: 60_000,
  hour: 3_600_000,
  day: 86_400_000,
  week: 604_800_000,
};

/** A date or a timestamp, moved; a month later than the 31st is the last of a shorter month. No year is before 1, nor after 9999. */
export function moved(moment: string, amount: number, unit: string): string {
  const isDate = moment.length === 10;
  const at = new Date(isDate ? `${moment}T00:00:00Z` : `${moment.slice(0, 23)}Z`);
  const milliseconds = MILLISECONDS[unit];
  if (milliseconds === undefined) {
    const months = amount * (unit === 'year' ? 12 : 1);
    const [year, month, day] = [at.getUTCFullYear(), at.getUTCMonth() + months, at.getUTCDate()];
    const end = new Date(Date.UTC(2000, 0, 1));
    // The day before the first of the month after.
    end.setUTCFullYear(year, month + 1, 0);
    at.setUTCFullYear(year, month, Math.min(day, end.getUTCDate()));
  } else at.setTime(at.getTime() + amount * milliseconds);
  const iso = inYears(at, amount);
  // Below a thousandth of a second nothing moves.
  return isDate ? iso.slice(0, 10) : `${iso.slice(0, 23)}${moment.slice(23)}`;
}

/** The days from one date to another. */
export function daysBetween(later: string, earlier: string): number {
  return Math.round((Date.parse(later) - Date.parse(earlier)) / 86_400_000);
}

function inYears(at: Date, amount: number): string {
  const year = at.getUTCFullYear();
  if (Number.isNaN(year)) return amount < 0 ? FIRST : LAST;
  return year < 1 ? FIRST : year > 9999 ? LAST : at.toISOString();
}
