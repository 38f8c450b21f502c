import { toDay } from '../../core/dates/day.ts';
import { parseDuration } from '../../core/dates/duration.ts';
import { minorDigits } from '../../core/money/currency.ts';
import { parseDecimal } from '../../core/money/decimal.ts';
import { bestSaving, compareRates, type ComparedRate } from '../../core/offer/compareRates.ts';
import { composeTerms } from '../../core/offer/composeTerms.ts';
import { extrasOf, type ExtraLine } from '../../core/offer/extras.ts';
import { variantsAt } from '../../core/offer/variant.ts';
import { taxOf } from '../../core/pricing/tax.ts';
import type { Law } from '../../core/terms/law.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { localeOf } from '../../core/typed/manner.ts';
import { isPageLanguage, type PageLanguage } from '../../core/words/signUp/languages.ts';
import type { Almanac } from '../almanac.ts';
import { inkOn, legibleOn } from '../branding/messages.ts';
import { pictureOf } from '../branding/uploads.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { optionsOf } from '../plans/plans.ts';
import { taxOfRate, type Rate } from '../plans/Rate.ts';
import { variantsOf } from '../plans/variants.ts';
import { listPolicies } from '../policies/policies.ts';
import { CONTACT_FIELDS, type ContactField, type SectionValue } from '../settings/messages.ts';
import { settingsOf } from '../settings/settings.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { closedOn } from './closed.ts';
import type {
  OfferedPlanView,
  OfferedRateView,
  PageMethod,
  PublicPage,
  SignUpPageValue,
} from './messages.ts';
import { safeTexts, valueOf } from './pages.ts';
import { joinedOn } from './pages.sql.ts';
import { saleOf, type SoldPlan } from './sale.ts';
import { SignUpPage } from './SignUpPage.ts';

/** Who looks at a page, and in which language they would read it. */
interface Looks {
  /** Empty: whichever the page is read in first. */
  readonly language: string;
  /** Staff try it out: it opens also where it is off, and nothing is kept of it. */
  readonly rehearsal: boolean;
}

/** A page by its address, or a refusal where there is none that anybody may see. */
export async function pageAt(key: string, rehearsal: boolean): Promise<SignUpPage> {
  const page = await SignUpPage.findOne({ where: { key } });
  if (!page || (page.archivedOn !== null && !rehearsal))
    throw new RefusedCommand(
      404,
      'There is no such page. Ask whoever gave you its address for the newest one.',
    );
  return page;
}

/** What whoever opens a page is shown. */
export async function readPublicPage(almanac: Almanac, key: string, looks: Looks): Promise<PublicPage> {
  const page = await pageAt(key, looks.rehearsal);
  const joined = await joinedOn(almanac, page.id);
  const shown = await present(
    almanac,
    { value: valueOf(page), version: page.version, isOn: page.isOn, joined },
    looks,
  );
  // What is not offered yet, or not any more, is nobody's affair.
  return shown.closed === 'off' ? { ...shown, text: '', pictures: [], plans: [], rates: [] } : shown;
}

/** The same of a page that is still being written. */
export async function previewPage(
  almanac: Almanac,
  value: SignUpPageValue,
  language: string,
): Promise<PublicPage> {
  const safe = { ...value, texts: await safeTexts(value.texts) };
  return present(almanac, { value: safe, version: 1, isOn: true, joined: 0 }, { language, rehearsal: true });
}

async function present(
  almanac: Almanac,
  page: {
    readonly value: SignUpPageValue;
    readonly version: number;
    readonly isOn: boolean;
    readonly joined: number;
  },
  looks: Looks,
): Promise<PublicPage> {
  const { value, version, joined } = page;
  const [business, facts, branding, customers, today] = await Promise.all([
    Business.findOne({ rejectOnEmpty: true }),
    settingsOf(almanac, 'business'),
    settingsOf(almanac, 'branding'),
    settingsOf(almanac, 'customers'),
    businessDateOf(almanac),
  ]);
  const language = languageOf(value, looks.language);
  const texts = value.texts[language] ?? value.texts[value.language];
  const { plans: sold } = await saleOf(value.rates);
  const by = { law: await loadLaw(almanac), ...(await settingsOf(almanac, 'taxing')), today };
  const rates = ratesOf(sold, value, by);
  const isOpen = looks.rehearsal || page.isOn;
  const closed = closedOn(
    { isOn: isOpen, until: value.until, places: value.places, joined, offered: rates.length },
    today,
  );
  const mainColour = value.look.mainColour || branding.mainColour;
  const accent = value.look.accentColour || branding.accentColour;
  return {
    ...{ key: value.key, version, closed, business: business.name, today, language },
    writeTo: facts.contactAddress || facts.replyAddress || business.senderAddress,
    locale: localeOf(language, facts.country),
    digits: Object.fromEntries(rates.map(({ currency }) => [currency, minorDigits(currency)])),
    languages: (Object.keys(value.texts) as PageLanguage[]).filter((one) => value.texts[one]),
    look: {
      header: value.look.header,
      main: mainColour,
      onMain: inkOn(mainColour),
      heading: legibleOn(mainColour, '#ffffff'),
      accent: legibleOn(accent, '#ffffff'),
      logo: await pictureOf(almanac, branding.logo),
      icon: await pictureOf(almanac, branding.icon),
    },
    title: texts?.title ?? value.key,
    text: texts?.text ?? '',
    labels: texts?.labels ?? {},
    pictures: await picturesAt(almanac, value.pictures),
    plans: await Promise.all(sold.map((one) => planView(almanac, one, by))),
    rates,
    firstRate: rates.some(({ id }) => id === value.firstRate) ? value.firstRate : (rates[0]?.id ?? ''),
    ...askedOn(value, customers),
    ...{ questions: value.questions, quantityMost: value.quantityMost, codes: value.codes },
    ...{ startWithin: value.startWithin, billingDay: value.billingDay, until: value.until },
    placesLeft: value.places === null ? null : Math.max(0, value.places - joined),
    ...{ serves: customers.serves, shipsTo: customers.shipsTo, country: facts.country },
    policies: (await listPolicies(almanac))
      .filter(({ kind, inForce }) => inForce && value.policies.includes(kind))
      .map(({ id, kind, version: of, text }) => ({ id, kind, version: of, text })),
    practice: business.practice,
    rehearsal: looks.rehearsal,
  };
}

/** The language that a page is read in: the one asked for, where the page is written in it. */
export function languageOf(value: SignUpPageValue, asked: string): PageLanguage {
  const wanted = asked
    .split(',')
    .map((one) => one.trim().slice(0, 2).toLowerCase())
    .find((one) => isPageLanguage(one) && value.texts[one] !== undefined);
  return wanted && isPageLanguage(wanted) ? wanted : value.language;
}

/** What a page asks of a customer: as Setup does, where it says nothing else. */
export function askedOn(
  value: SignUpPageValue,
  setup: SectionValue<'customers'>,
): Pick<PublicPage, 'ask' | 'fields'> {
  const names = Object.keys(CONTACT_FIELDS) as ContactField[];
  const ask = Object.fromEntries(
    names.map((field) => [field, value.ask[field] === 'setup' ? setup.ask[field] : value.ask[field]]),
  ) as PublicPage['ask'];
  const fields = setup.fields.flatMap(({ label, required }) => {
    const here = value.fields[label] ?? 'setup';
    return here === 'no' ? [] : [{ label, required: here === 'setup' ? required : here === 'required' }];
  });
  return { ask, fields };
}

interface TaxedBy {
  readonly law: Law;
  readonly defaultTax: string | null;
  readonly today: string;
}

async function planView(almanac: Almanac, { plan, rates }: SoldPlan, by: TaxedBy): Promise<OfferedPlanView> {
  const ids = rates.map(({ id }) => id);
  const variants = (await variantsOf(almanac, [plan.id])).filter(
    (variant) => variant.archivedOn === null && ids.some((id) => variantsAt([variant], id).length > 0),
  );
  const [picture] = await picturesAt(almanac, plan.picture === null ? [] : [plan.picture]);
  return {
    ...{ id: plan.id, name: plan.outerName || plan.name, text: plan.description, picture: picture ?? null },
    isGoods: plan.kind === 'goods',
    documents: await documentsAt(almanac, plan.documents),
    asks: plan.asks,
    variants: variants.map(({ id, name, says, rates: at }) => ({ id, name, says, rates: at })),
    extras: plan.extras.flatMap((extra) => {
      const rate = rates.find(({ terms }) => extrasOf([extra], terms).length > 0);
      const { key, name, currency, how, when, min, max } = extra;
      return rate ? [{ ...{ key, name, currency, how, when, min, max }, each: eachOf(extra, rate, by) }] : [];
    }),
  };
}

/** What one of an extra line costs with a rate, taxes within; null where that is not one amount. */
function eachOf(
  { price, currency }: ExtraLine,
  rate: Rate,
  { law, defaultTax, today }: TaxedBy,
): string | null {
  const digits = minorDigits(currency);
  if (price.scheme !== 'flat' && price.scheme !== 'each') return null;
  if ((price.amount.split('.')[1]?.length ?? 0) > digits) return null;
  const amount = parseDecimal(price.amount, digits);
  const terms = composeTerms(rate.terms, { starts: today });
  const tax = law.taxOfLine(factsFor(terms, rate, defaultTax), {}, toDay(today));
  return (tax === null ? amount : taxOf(amount, tax).total).toString();
}

/** The rates of a page with what each costs and saves, taxes within. */
function ratesOf(
  sold: readonly SoldPlan[],
  value: SignUpPageValue,
  { law, defaultTax, today }: TaxedBy,
): OfferedRateView[] {
  return sold.flatMap(({ rates }) => {
    const compared = compareRates(rates, today, (terms, { id }) =>
      law.compile(
        factsFor(
          terms,
          rates.find((one) => one.id === id),
          defaultTax,
        ),
      ),
    );
    return rates.map((rate) => rateView(rate, compared.get(rate.id), value, rates));
  });
}

/** By which taxes a price is shown before anybody has said where they live: those at home. */
const factsFor = (terms: Terms, rate: Rate | undefined, defaultTax: string | null) => ({
  ...{ terms, country: null, region: '', tax_exempt: '', works_by: null, shift: null },
  tax_id: rate ? taxOfRate(rate, defaultTax) : null,
});

const COUNTED = new Set(['each', 'each-tier', 'reached-tier', 'step', 'pack']);

function rateView(
  rate: Rate,
  compared: ComparedRate | undefined,
  value: SignUpPageValue,
  among: readonly Rate[],
): OfferedRateView {
  const { terms } = rate;
  const recurs = 'lines' in terms;
  const price = recurs ? terms.lines[0]?.price : undefined;
  const options = optionsOf(rate);
  // An amount of one's own is no price to be held against another.
  const held = compared && {
    ...compared,
    against: compared.against.filter(
      ({ id }) => !isChosen(rate) && !isChosen(among.find((one) => one.id === id)),
    ),
  };
  const best = held && (bestSaving(held) ?? dearest(held));
  const composed = composeTerms(terms, { starts: '2027-01-04' });
  return {
    ...{ id: rate.id, planId: rate.planId, name: rate.name, currency: terms.currency },
    digits: minorDigits(terms.currency),
    each: price?.scheme === 'chosen' || !compared || compared.each === null ? null : compared.each.toString(),
    chosen:
      price?.scheme === 'chosen'
        ? { suggested: price.amount, min: price.min ?? null, max: price.max ?? null }
        : null,
    interval: recurs ? parseDuration(terms.interval) : null,
    payments: recurs ? (terms.ends?.after ?? null) : null,
    instalments: recurs && terms.lines.some((line) => line.price.scheme === 'instalments'),
    trial: 'trial' in composed && composed.trial ? composed.trial.length : null,
    counted: price !== undefined && COUNTED.has(price.scheme),
    saves: best
      ? {
          ...{ basis: best.basis, amount: best.saves.toString(), percent: best.percent },
          than: among.find(({ id }) => id === best.id)?.name ?? best.name,
        }
      : null,
    methods: options.methods.filter((way): way is PageMethod => value.methods.includes(way)),
    methodLater: recurs && terms.trial !== undefined && options.withoutMethod !== 'needed',
  };
}

/** Whether customers say themselves what they pay. */
const isChosen = (rate: Rate | undefined) =>
  rate !== undefined &&
  'lines' in rate.terms &&
  rate.terms.lines.some(({ price }) => price.scheme === 'chosen');

/** Of what is paid in parts beside the same at once: how much more it is; none where all cost alike. */
function dearest({ against }: ComparedRate) {
  return against.find(({ basis, saves }) => basis === 'in all' && saves < 0n) ?? null;
}

async function picturesAt(almanac: Almanac, ids: readonly string[]): Promise<string[]> {
  const found = await Promise.all(ids.map((id) => pictureOf(almanac, id)));
  return found.filter((one) => one !== null);
}

/** Documents with the addresses that they are had at. */
export async function documentsAt(
  { db }: Almanac,
  documents: readonly { readonly upload: string; readonly name: string }[],
): Promise<{ name: string; at: string }[]> {
  if (documents.length === 0) return [];
  const rows = await db.rows<{ id: string; address: string }>(
    'select id::text, address from uploads where id = any($ids::bigint[])',
    { ids: documents.map(({ upload }) => upload) },
  );
  return documents.flatMap(({ upload, name }) => {
    const found = rows.find(({ id }) => id === upload);
    return found ? [{ name, at: `/documents/${found.address}` }] : [];
  });
}
