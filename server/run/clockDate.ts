/** The civil date of an instant in a time zone: where the clock becomes a business date, and nowhere else. */
export function clockDate(timeZone: string, now: Date): string {
  return new Intl.DateTimeFormat('en-CA', {
    timeZone,
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
  }).format(now);
}
