import { mannerOf, type Manner } from './manner.ts';
import { read, refused, type Reading } from './reading.ts';

export interface AmountLimits {
  /** The currency it is in: its code and symbols may stand before or after. Null: it is no amount of money. */
  readonly currency: string | null;
  /** Most decimals: those of the currency, or more for prices of a unit. */
  readonly decimals: number;
}

/** Digits before the decimals that an amount may have. */
const MOST_DIGITS = 12;
const SPACES = /[\s\u00a0\u202f\u2009'’]/g;

/**
 * Reads an amount as people type it in a language, never by guessing: what could be read in two ways is refused
 * with what to write instead.
 * @returns a decimal string with a point and no groups, as it is stored
 * @example readAmount('£4,995', 'en-GB', { currency: 'GBP', decimals: 2 }) // 4995
 * @example readAmount('1.234,50 €', 'de-DE', { currency: 'EUR', decimals: 2 }) // 1234.50
 */
export function readAmount(text: string, locale: string, limits: AmountLimits): Reading {
  const manner = mannerOf(locale);
  const { currency, decimals } = limits;
  const bare =
    text.length > 60
      ? ''
      : currency === null
        ? text.replace('%', '').trim()
        : withoutCurrency(text, currency);
  if (bare === null)
    return refused(`This is in ${currency}: give the figure alone, such as ${sample(manner)}.`);
  if (bare === '') return refused(`Give an amount such as ${sample(manner)}.`);
  if (/^[-−–]/.test(bare)) return refused('An amount is not negative here.');
  const figure = bare.replace(SPACES, (space) => (space === '’' || space === "'" ? "'" : ' '));
  const { decimal } = manner;
  const groups = decimal === '.' ? ",' " : ".' ";
  const at = figure.indexOf(decimal);
  const whole = at === -1 ? figure : figure.slice(0, at);
  const fraction = at === -1 ? '' : figure.slice(at + 1);
  const shape = new RegExp(`^(\\d+|\\d{1,3}([${groups}])\\d{3}(\\2\\d{3})*)?$`);
  if (!shape.test(whole) || !/^\d*$/.test(fraction) || (whole === '' && fraction === '')) {
    return refused(otherwise(figure, manner, decimals));
  }
  const digits = whole.replace(/\D/g, '').replace(/^0+(?=\d)/, '') || '0';
  if (digits.length > MOST_DIGITS) return refused(`An amount has at most ${MOST_DIGITS} digits.`);
  if (fraction.length > decimals) {
    return refused(
      decimals === 0
        ? `${currency ?? 'This'} has no decimals: give a whole amount.`
        : `At most ${decimals} decimals, such as ${sample(manner, Math.min(decimals, 2))}.`,
    );
  }
  return read(fraction === '' ? digits : `${digits}.${fraction}`);
}

/**
 * Prints a stored decimal string as the language writes it, with at least the decimals given; what is not one
 * is left as it is.
 * @example printAmount('1234.5', 'de-DE', 2) // '1.234,50'
 */
export function printAmount(stored: string, locale: string, least: number): string {
  const match = /^(\d+)(?:\.(\d+))?$/.exec(stored);
  if (!match) return stored;
  const { decimal, group } = mannerOf(locale);
  const whole = (match[1] ?? '').replace(/\B(?=(\d{3})+$)/g, group);
  const fraction = (match[2] ?? '').padEnd(least, '0');
  return fraction === '' ? whole : `${whole}${decimal}${fraction}`;
}

/** Figures that can be read in one way only, whatever the language: a comma or a point, and one or two digits behind it. */
const PLAINLY = /^\d{1,12}[.,]\d{1,2}$|^\d{1,3}([. ]\d{3})+,\d{1,2}$|^\d{1,3}([, ]\d{3})+\.\d{1,2}$/;

/**
 * Reads an amount from a file that may come from elsewhere: in the language of the business, or as it can only be meant. What
 * could be read in two ways is read as the language has it.
 * @example readAmountOfFile('12,50', 'en-GB', { currency: 'GBP', decimals: 2 }) // 12.50
 * @example readAmountOfFile('1.234,50', 'en-GB', { currency: 'GBP', decimals: 2 }) // 1234.50
 * @example readAmountOfFile('1,234', 'en-GB', { currency: 'GBP', decimals: 2 }) // 1234
 */
export function readAmountOfFile(text: string, locale: string, limits: AmountLimits): Reading {
  const found = readAmount(text, locale, limits);
  if (found.ok) return found;
  const bare = limits.currency === null ? text.trim() : withoutCurrency(text, limits.currency)?.trim();
  if (bare === undefined || !PLAINLY.test(bare)) return found;
  const at = Math.max(bare.lastIndexOf('.'), bare.lastIndexOf(','));
  return read(
    `${bare
      .slice(0, at)
      .replace(/\D/g, '')
      .replace(/^0+(?=\d)/, '')}.${bare.slice(at + 1)}`,
  );
}

/**
 * Reads a whole number as people type it: '1,000' is a thousand where commas group, and never less than was typed.
 * @returns its digits
 */
export function readWhole(
  text: string,
  locale: string,
  { least = 0, most }: { readonly least?: number; readonly most: number },
): Reading {
  const { decimal } = mannerOf(locale);
  const groups = decimal === '.' ? ",' " : ".' ";
  const bare = text.trim().replace(SPACES, (space) => (space === '’' || space === "'" ? "'" : ' '));
  const limits = `Give a whole number from ${least} to ${printAmount(String(most), locale, 0)}.`;
  if (!new RegExp(`^(\\d+|\\d{1,3}([${groups}])\\d{3}(\\2\\d{3})*)$`).test(bare)) return refused(limits);
  const digits = bare.replace(/\D/g, '').replace(/^0+(?=\d)/, '');
  if (digits.length > 15 || Number(digits) < least || Number(digits) > most) return refused(limits);
  return read(digits);
}

const sample = (manner: Manner, decimals = 2) => printAmount('1234.5', manner.locale, decimals);

/** Takes the currency away, where it is the right one; null where another stands there. */
function withoutCurrency(text: string, currency: string): string | null {
  const mark = /^\s*([^\d.,\s−–-]*)\s*([\s\S]*?)\s*([^\d.,\s]*)\s*$/.exec(text);
  const before = mark?.[1] ?? '';
  const after = mark?.[3] ?? '';
  const isOurs = (said: string) => said === '' || marksOf(currency).has(said.toUpperCase());
  return isOurs(before) && isOurs(after) && !(before && after) ? (mark?.[2] ?? '') : null;
}

const marks = new Map<string, ReadonlySet<string>>();

/** The code and the symbols of a currency, in capitals. */
function marksOf(currency: string): ReadonlySet<string> {
  const known = marks.get(currency);
  if (known) return known;
  const symbol = (currencyDisplay: 'symbol' | 'narrowSymbol') =>
    new Intl.NumberFormat('en', { style: 'currency', currency, currencyDisplay })
      .formatToParts(1)
      .find(({ type }) => type === 'currency')?.value ?? currency;
  const found = new Set(
    [currency, symbol('symbol'), symbol('narrowSymbol')].map((mark) => mark.toUpperCase()),
  );
  marks.set(currency, found);
  return found;
}

/** What to write instead of a figure that this language does not write so. */
function otherwise(figure: string, manner: Manner, decimals: number): string {
  const { decimal, name } = manner;
  const other = decimal === '.' ? ',' : '.';
  const foreign = new RegExp(`^\\d{1,3}(?:[${other === ',' ? '.' : ','} ']?\\d{3})*\\${other}\\d+$`).exec(
    figure,
  );
  if (foreign) {
    const [whole = '', fraction = ''] = figure.split(other);
    const meant = `${whole.replace(/\D/g, '')}.${fraction}`;
    return `In ${name} decimals follow a “${decimal}”: for ${figure} write ${printAmount(meant, manner.locale, 0)}.`;
  }
  return `Give an amount such as ${sample(manner, Math.min(decimals, 2))}.`;
}
