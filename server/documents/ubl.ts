import { create } from 'xmlbuilder2';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { minorDigits } from '../../core/money/currency.ts';
import { formatDecimal } from '../../core/money/decimal.ts';
import { trimmedRate } from '../../core/words/percent.ts';
import { isCountry } from '../../core/words/countries.ts';
import { RefusedCommand } from '../http/problem.ts';
import { fileNameOf, type DocumentFile } from './documentOf.ts';
import type { PrintedDocument, PrintedLine } from './printed.ts';

/*
 * Invoices and credit notes as UBL 2.1 (OASIS) by the semantic model of EN 16931-1: what a buyer's accounts read by themselves.
 * The numbers of business terms (BT-1) and of rules (BR-S-8) are those of the standard.
 */

const NAMESPACES = {
  Invoice: 'urn:oasis:names:specification:ubl:schema:xsd:Invoice-2',
  CreditNote: 'urn:oasis:names:specification:ubl:schema:xsd:CreditNote-2',
  cac: 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
  cbc: 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
} as const;

/** The customisation that says: EN 16931 and nothing more (BT-24). */
const EN_16931 = 'urn:cen.eu:en16931:2017';
/** UNTDID 1001: a commercial invoice, a credit note (BT-3). */
const TYPE_CODES = { invoice: '380', 'credit note': '381' } as const;
/** UN/ECE recommendation 20: one of something (BT-130). */
const ONE = 'C62';
/** Amounts have two decimals at most (BR-DEC). */
const MOST_DECIMALS = 2;

/** How a line is taxed (UNTDID 5305, BT-151): standard rate, zero rate, exempt, reverse charge. */
type Category = 'S' | 'Z' | 'E' | 'AE';

/** One kind of tax of the document, with what of it there is (BG-23). */
interface TaxPart {
  readonly category: Category;
  /** Percent. */
  readonly rate: string;
  readonly reason: string | null;
  readonly net: bigint;
  readonly tax: bigint;
  /** The lines that bear it, with what each is without it. */
  readonly lines: readonly { readonly line: PrintedLine; readonly net: bigint }[];
}

/** A node as the builder takes it: names with what is in them, in order. */
type Node = Readonly<Record<string, unknown>>;

/**
 * A document as UBL.
 * @throws RefusedCommand where the standard asks for what is not known, and says where that is given
 */
export function ublOf(document: PrintedDocument): DocumentFile {
  requireKnown(document);
  const root = document.kind === 'invoice' ? 'Invoice' : 'CreditNote';
  const parts = taxPartsOf(document);
  const amount = (minor: bigint) => ({
    '@currencyID': document.currency,
    '#': formatDecimal(minor, minorDigits(document.currency)),
  });
  const net = parts.reduce((sum, part) => sum + part.net, 0n);
  const tax = parts.reduce((sum, part) => sum + part.tax, 0n);
  const order = document.fields.find(({ label }) => /purchase|order|\bpo\b/i.test(label));
  const xml = create(
    { version: '1.0', encoding: 'UTF-8', invalidCharReplacement: '' },
    literal({
      [root]: {
        '@xmlns': NAMESPACES[root],
        '@xmlns:cac': NAMESPACES.cac,
        '@xmlns:cbc': NAMESPACES.cbc,
        'cbc:CustomizationID': EN_16931,
        'cbc:ID': document.number,
        'cbc:IssueDate': document.issuedOn,
        ...(document.kind === 'invoice' && document.dueOn !== null ? { 'cbc:DueDate': document.dueOn } : {}),
        [`cbc:${root}TypeCode`]: TYPE_CODES[document.kind],
        ...noteOf(document),
        'cbc:DocumentCurrencyCode': document.currency,
        ...(document.reference === '' ? {} : { 'cbc:BuyerReference': document.reference }),
        'cac:InvoicePeriod': periodOf(document),
        ...(order ? { 'cac:OrderReference': { 'cbc:ID': order.value } } : {}),
        ...(document.corrects
          ? {
              'cac:BillingReference': {
                'cac:InvoiceDocumentReference': {
                  'cbc:ID': document.corrects.number,
                  'cbc:IssueDate': document.corrects.issuedOn,
                },
              },
            }
          : {}),
        'cac:AccountingSupplierParty': { 'cac:Party': sellerOf(document) },
        'cac:AccountingCustomerParty': { 'cac:Party': buyerOf(document) },
        'cac:TaxTotal': {
          'cbc:TaxAmount': amount(tax),
          'cac:TaxSubtotal': parts.map((part) => ({
            'cbc:TaxableAmount': amount(part.net),
            'cbc:TaxAmount': amount(part.tax),
            'cac:TaxCategory': categoryOf(part, true),
          })),
        },
        'cac:LegalMonetaryTotal': {
          'cbc:LineExtensionAmount': amount(net),
          'cbc:TaxExclusiveAmount': amount(net),
          'cbc:TaxInclusiveAmount': amount(net + tax),
          'cbc:PayableAmount': amount(net + tax),
        },
        [`cac:${root}Line`]: parts
          .flatMap((part) => part.lines.map((line) => ({ part, ...line })))
          .map(({ part, line, net: ofLine }, i) =>
            lineOf(document, { part, line, net: ofLine, place: i + 1 }),
          ),
      },
    }),
  ).end({ prettyPrint: true });
  return {
    name: `${fileNameOf(document)}.xml`,
    mediaType: 'application/xml',
    bytes: Buffer.from(xml, 'utf8'),
  };
}

/** The same with every ampersand as itself: the builder reads entities, and then leaves what looks like one as it is. */
function literal(node: Node): Node {
  const of = (value: unknown): unknown => {
    if (typeof value === 'string') return value.replaceAll('&', '&amp;amp;');
    if (Array.isArray(value)) return value.map(of);
    return typeof value === 'object' && value !== null ? literal(value as Node) : value;
  };
  return Object.fromEntries(Object.entries(node).map(([name, value]) => [name, of(value)]));
}

/** Refuses a document of which something is not known that the standard asks for. */
function requireKnown({ parties, currency, kind, number }: PrintedDocument): void {
  const lacks = (what: string): never => {
    throw new RefusedCommand(
      409,
      `${kind === 'invoice' ? 'Invoice' : 'Credit note'} ${number} has no UBL: ${what}`,
    );
  };
  if (minorDigits(currency) > MOST_DECIMALS)
    lacks(`EN 16931 knows amounts of two decimals, and ${currency} has three.`);
  if (!parties.legalName) lacks('it was issued without the name of the business.');
  if (!parties.country || !isCountry(parties.country))
    lacks('it was issued without the country of the business. Give it in Setup, Business.');
  if (!parties.taxNumber)
    lacks('it was issued without the tax number of the business. Give it in Setup, Business.');
}

/** A number for value added tax begins with the country that gave it (BR-CO-9). */
const isVatNumber = (number: string) =>
  isCountry(number.replaceAll(' ', '').slice(0, 2).toUpperCase()) && /\d/.test(number);
const compact = (number: string) => number.replaceAll(' ', '').toUpperCase();

function noteOf({ reason, parties }: PrintedDocument): Node {
  const note = [reason, parties.note ?? ''].filter((text) => text.trim() !== '').join('\n');
  return note === '' ? {} : { 'cbc:Note': note };
}

/** A name without what XML cannot hold (XML 1.0, Char) and what nobody sees. */
const visible = (name: string) => name.replace(/[\p{C}]/gu, '').trim();

/** The service period, its last day included (BT-73, BT-74). */
function periodOf({ periodFrom, periodTo }: PrintedDocument): Node {
  const end = periodTo > periodFrom ? formatDay(toDay(periodTo) - 1) : periodFrom;
  return { 'cbc:StartDate': periodFrom, 'cbc:EndDate': end };
}

function addressOf(address: string | undefined, country: string): Node {
  const [street, more, ...rest] = (address ?? '').split('\n').flatMap((line) => line.trim() || []);
  return {
    ...(street ? { 'cbc:StreetName': street } : {}),
    ...(more ? { 'cbc:AdditionalStreetName': more } : {}),
    ...(rest.length > 0 ? { 'cac:AddressLine': { 'cbc:Line': rest.join(', ') } } : {}),
    'cac:Country': { 'cbc:IdentificationCode': country },
  };
}

function sellerOf(document: PrintedDocument): Node {
  const { legalName = '', address, taxNumber = '', country = '' } = document.parties;
  const isVat = isVatNumber(taxNumber);
  return {
    'cac:PostalAddress': addressOf(address, country),
    'cac:PartyTaxScheme': {
      'cbc:CompanyID': isVat ? compact(taxNumber) : taxNumber,
      'cac:TaxScheme': { 'cbc:ID': isVat ? 'VAT' : 'TAX' },
    },
    'cac:PartyLegalEntity': {
      'cbc:RegistrationName': legalName,
      // The buyer knows the seller by some number (BR-CO-26).
      ...(isVat ? {} : { 'cbc:CompanyID': taxNumber }),
    },
  };
}

function buyerOf(document: PrintedDocument): Node {
  const { to, country = '' } = document.parties;
  const { name = '', organisation = '', address = '', taxNumber = '' } = to ?? {};
  // Whoever gave no country counts as living where the business does.
  const lives = to?.country && isCountry(to.country) ? to.country : country;
  const isVat = taxNumber !== '' && isVatNumber(taxNumber);
  return {
    'cac:PostalAddress': addressOf(address, lives),
    ...(isVat
      ? {
          'cac:PartyTaxScheme': {
            'cbc:CompanyID': compact(taxNumber),
            'cac:TaxScheme': { 'cbc:ID': 'VAT' },
          },
        }
      : {}),
    'cac:PartyLegalEntity': {
      'cbc:RegistrationName': organisation || name,
      ...(taxNumber !== '' && !isVat ? { 'cbc:CompanyID': taxNumber } : {}),
    },
    ...(organisation === '' ? {} : { 'cac:Contact': { 'cbc:Name': name } }),
  };
}

/**
 * The lines by how they are taxed, each without its tax. A tax that is in the prices was taken out once for all of them (rules 6):
 * each line has its share of that, and the last what is left, so that they sum to what was taxed.
 */
function taxPartsOf(document: PrintedDocument): TaxPart[] {
  const { lines, taxes } = document;
  const parts = taxes.flatMap(({ rate, mode, net, tax }, place): TaxPart[] => {
    const borne = lines.filter((line) => line.tax === place);
    if (borne.length === 0 && net === '0' && tax === '0') return [];
    const isZero = Number(rate) === 0;
    const whole = borne.reduce((sum, { amount }) => sum + BigInt(amount), 0n);
    let left = BigInt(net);
    const shares = borne.map((line, i) => {
      const amount = BigInt(line.amount);
      const share =
        i === borne.length - 1
          ? left
          : mode === 'exclusive' || whole === 0n
            ? amount
            : (amount * BigInt(net)) / whole;
      left -= share;
      return { line, net: share };
    });
    return [
      {
        category: isZero ? 'Z' : 'S',
        rate,
        reason: null,
        net: BigInt(net),
        tax: BigInt(tax),
        lines: shares,
      },
    ];
  });
  const free = lines.filter((line) => line.tax === null);
  if (free.length === 0) return parts;
  const net = free.reduce((sum, { amount }) => sum + BigInt(amount), 0n);
  return [
    ...parts,
    { ...untaxed(document), net, tax: 0n, lines: free.map((line) => ({ line, net: BigInt(line.amount) })) },
  ];
}

/** How lines that bear no tax are said to be taxed, and why. */
function untaxed({ parties }: PrintedDocument): Pick<TaxPart, 'category' | 'rate' | 'reason'> {
  const { to } = parties;
  const reason = to?.taxExempt ?? '';
  if (/reverse/i.test(reason) && to?.taxNumber) return { category: 'AE', rate: '0', reason };
  return { category: 'E', rate: '0', reason: reason || 'No tax is charged on this' };
}

function categoryOf({ category, rate, reason }: TaxPart, withReason: boolean): Node {
  return {
    'cbc:ID': category,
    'cbc:Percent': trimmedRate(rate),
    ...(withReason && reason !== null ? { 'cbc:TaxExemptionReason': reason } : {}),
    'cac:TaxScheme': { 'cbc:ID': 'VAT' },
  };
}

/**
 * One line (BG-25). A price is never below zero (BR-27): what is given back is less than nothing of it. The price is that of all
 * that was bought, on a base of so many, so that it is exact.
 */
function lineOf(
  document: PrintedDocument,
  of: { readonly part: TaxPart; readonly line: PrintedLine; readonly net: bigint; readonly place: number },
): Node {
  const { part, line, net, place } = of;
  const digits = minorDigits(document.currency);
  const amount = (minor: bigint) => ({
    '@currencyID': document.currency,
    '#': formatDecimal(minor, digits),
  });
  const quantity = Math.max(1, line.quantity);
  const counted = document.kind === 'invoice' ? 'cbc:InvoicedQuantity' : 'cbc:CreditedQuantity';
  return {
    'cbc:ID': String(place),
    [counted]: { '@unitCode': ONE, '#': String(net < 0n ? -quantity : quantity) },
    'cbc:LineExtensionAmount': amount(net),
    'cac:InvoicePeriod': periodOf(document),
    'cac:Item': {
      'cbc:Name': line.settles ?? (visible(line.name) || 'Subscription'),
      'cac:ClassifiedTaxCategory': categoryOf(part, false),
    },
    'cac:Price': {
      'cbc:PriceAmount': amount(net < 0n ? -net : net),
      'cbc:BaseQuantity': { '@unitCode': ONE, '#': String(quantity) },
    },
  };
}
