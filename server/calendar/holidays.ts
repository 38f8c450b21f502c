import ICAL from 'ical.js';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { noteLawChanged } from '../forecast/altered.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Holiday, HolidayImport } from './messages.ts';

/** Holidays that recur are read for so many years ahead, and a file gives at most so many days. */
const YEARS_AHEAD = 6;
const MOST_DAYS = 2000;

/** The holidays on record, by country and day. */
export function listHolidays(almanac: Almanac): Promise<Holiday[]> {
  return almanac.db.rows<Holiday>('select country, date, name from holidays order by country, date');
}

export function addHoliday(almanac: Almanac, holiday: Holiday): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const added = await almanac.db.row(
      `insert into holidays (country, date, name) values ($country, $date, $name)
       on conflict do nothing returning 1 as added`,
      { ...holiday },
      within,
    );
    if (!added) throw new RefusedCommand(409, 'This day is a holiday there already.', '/date');
    await noteLawChanged(almanac, within);
    await recordDone(almanac, { did: 'added a holiday', subject: holiday.name, after: holiday }, within);
  });
}

export function removeHoliday(almanac: Almanac, country: string, date: string): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const gone = await almanac.db.row<Holiday>(
      'delete from holidays where country = $country and date = $date returning country, date, name',
      { country, date },
      within,
    );
    if (!gone) throw new RefusedCommand(404, 'There is no such holiday.');
    await noteLawChanged(almanac, within);
    await recordDone(almanac, { did: 'removed a holiday', subject: gone.name, before: gone }, within);
  });
}

/**
 * Takes holidays from an iCalendar file (RFC 5545): all-day events, those that recur for some years ahead. A dry
 * run shows what it would add.
 */
export async function importHolidays(
  almanac: Almanac,
  file: { readonly country: string; readonly text: string; readonly dryRun: boolean },
  today: string,
): Promise<HolidayImport> {
  const { days, passedOver } = readHolidays(file.text, today);
  const known = new Set(
    (await listHolidays(almanac)).filter(({ country }) => country === file.country).map(({ date }) => date),
  );
  const added = days.filter(({ date }) => !known.has(date)).map((day) => ({ country: file.country, ...day }));
  if (!file.dryRun && added.length > 0) {
    await almanac.db.transaction(async (within) => {
      for (const holiday of added) {
        await almanac.db.rows(
          'insert into holidays (country, date, name) values ($country, $date, $name) on conflict do nothing',
          { ...holiday },
          within,
        );
      }
      await noteLawChanged(almanac, within);
      await recordDone(almanac, { did: 'imported holidays', subject: file.country, after: added }, within);
    });
  }
  return { added, known: days.length - added.length, passedOver };
}

/** The days of an iCalendar file, each once, from a year back. */
export function readHolidays(
  text: string,
  today: string,
): { days: { date: string; name: string }[]; passedOver: string[] } {
  let calendar: ICAL.Component;
  try {
    calendar = new ICAL.Component(ICAL.parse(text) as never);
  } catch {
    throw new RefusedCommand(422, 'This is not an iCalendar file: it begins with BEGIN:VCALENDAR.', '/text');
  }
  const first = formatDay(toDay(today) - 366);
  const last = formatDay(toDay(today) + 366 * YEARS_AHEAD);
  const days = new Map<string, string>();
  const passedOver: string[] = [];
  for (const component of calendar.getAllSubcomponents('vevent')) {
    const event = new ICAL.Event(component);
    const name = (event.summary || 'Holiday').trim().slice(0, 120);
    if (!event.startDate?.isDate) {
      passedOver.push(`${name}: has a time of day`);
      continue;
    }
    const length = Math.max(1, event.duration.toSeconds() / 86_400);
    const occurrences = event.iterator();
    for (let start = occurrences.next(), n = 0; start && n < MOST_DAYS; start = occurrences.next(), n += 1) {
      const from = toDay(start.toString().slice(0, 10));
      if (formatDay(from) > last) break;
      for (let i = 0; i < Math.min(length, 31); i += 1) {
        const date = formatDay(from + i);
        if (date >= first && date <= last && !days.has(date)) days.set(date, name);
      }
    }
  }
  if (days.size === 0 && passedOver.length === 0)
    throw new RefusedCommand(422, 'There is no all-day event in this file.', '/text');
  if (days.size > MOST_DAYS)
    throw new RefusedCommand(422, `A file gives at most ${MOST_DAYS} days.`, '/text');
  return {
    days: [...days].map(([date, name]) => ({ date, name })).sort((a, b) => (a.date < b.date ? -1 : 1)),
    passedOver,
  };
}
