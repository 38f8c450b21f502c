import { DOMParser, type Node as XmlNode } from '@xmldom/xmldom';
import xpath from 'xpath';

/*
 * Rules of EN 16931-1:2017 for its UBL 2.1 syntax, written from the text of the standard: the integrity constraints (BR), the
 * conditions (BR-CO), decimals (BR-DEC), code lists (BR-CL) and those of the kinds of tax (BR-S, BR-Z, BR-E, BR-AE). They know
 * nothing of the code that writes the documents.
 */

const NAMESPACES = {
  inv: 'urn:oasis:names:specification:ubl:schema:xsd:Invoice-2',
  cn: 'urn:oasis:names:specification:ubl:schema:xsd:CreditNote-2',
  cac: 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
  cbc: 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
};

/** A document as it was read, asked by paths. */
export class ReadDocument {
  private readonly root: XmlNode;
  private readonly select = xpath.useNamespaces(NAMESPACES);

  constructor(xml: string) {
    const faults: string[] = [];
    const parser = new DOMParser({ onError: (level, message) => void faults.push(`${level}: ${message}`) });
    const document = parser.parseFromString(xml, 'text/xml');
    if (faults.length > 0) throw new Error(faults.join('; '));
    if (!document.documentElement) throw new Error('There is nothing in it.');
    this.root = document.documentElement as XmlNode;
  }

  /** The nodes under a path from the root, or from another node. */
  nodes(path: string, from: XmlNode = this.root): XmlNode[] {
    return this.select(path, from as never) as unknown as XmlNode[];
  }

  /** The text of the first node under a path; null: there is none. */
  text(path: string, from: XmlNode = this.root): string | null {
    return this.nodes(path, from)[0]?.textContent ?? null;
  }

  /** An amount or a percentage as a decimal of so many decimals, times ten to their number; null: there is none. */
  number(path: string, from: XmlNode = this.root): number | null {
    const text = this.text(path, from);
    return text === null ? null : Number(text);
  }

  get isCreditNote(): boolean {
    return (this.root as XmlNode & { localName: string }).localName === 'CreditNote';
  }

  get lines(): XmlNode[] {
    return this.nodes('cac:InvoiceLine | cac:CreditNoteLine');
  }

  get parts(): XmlNode[] {
    return this.nodes('cac:TaxTotal/cac:TaxSubtotal');
  }
}

interface Rule {
  readonly id: string;
  /** What is wrong, one sentence each; none: it is kept. */
  readonly breaches: (document: ReadDocument) => string[];
}

/** Business terms that must be there, by the rule that asks for them. */
const REQUIRED: readonly (readonly [string, string])[] = [
  ['BR-1', 'cbc:CustomizationID'],
  ['BR-2', 'cbc:ID'],
  ['BR-3', 'cbc:IssueDate'],
  ['BR-4', 'cbc:InvoiceTypeCode | cbc:CreditNoteTypeCode'],
  ['BR-5', 'cbc:DocumentCurrencyCode'],
  ['BR-6', 'cac:AccountingSupplierParty/cac:Party/cac:PartyLegalEntity/cbc:RegistrationName'],
  ['BR-7', 'cac:AccountingCustomerParty/cac:Party/cac:PartyLegalEntity/cbc:RegistrationName'],
  ['BR-8', 'cac:AccountingSupplierParty/cac:Party/cac:PostalAddress'],
  ['BR-9', 'cac:AccountingSupplierParty/cac:Party/cac:PostalAddress/cac:Country/cbc:IdentificationCode'],
  ['BR-10', 'cac:AccountingCustomerParty/cac:Party/cac:PostalAddress'],
  ['BR-11', 'cac:AccountingCustomerParty/cac:Party/cac:PostalAddress/cac:Country/cbc:IdentificationCode'],
  ['BR-12', 'cac:LegalMonetaryTotal/cbc:LineExtensionAmount'],
  ['BR-13', 'cac:LegalMonetaryTotal/cbc:TaxExclusiveAmount'],
  ['BR-14', 'cac:LegalMonetaryTotal/cbc:TaxInclusiveAmount'],
  ['BR-15', 'cac:LegalMonetaryTotal/cbc:PayableAmount'],
  ['BR-16', 'cac:InvoiceLine | cac:CreditNoteLine'],
  ['BR-CO-18', 'cac:TaxTotal/cac:TaxSubtotal'],
];

/** What each line must have. */
const OF_LINES: readonly (readonly [string, string])[] = [
  ['BR-21', 'cbc:ID'],
  ['BR-22', 'cbc:InvoicedQuantity | cbc:CreditedQuantity'],
  ['BR-23', 'cbc:InvoicedQuantity/@unitCode | cbc:CreditedQuantity/@unitCode'],
  ['BR-24', 'cbc:LineExtensionAmount'],
  ['BR-25', 'cac:Item/cbc:Name'],
  ['BR-26', 'cac:Price/cbc:PriceAmount'],
  ['BR-CO-4', 'cac:Item/cac:ClassifiedTaxCategory/cbc:ID'],
];

const CATEGORY = 'cac:Item/cac:ClassifiedTaxCategory/cbc:ID';
const same = (a: number, b: number) => Math.abs(a - b) < 0.0001;
const sum = (numbers: readonly (number | null)[]) =>
  numbers.reduce<number>((total, one) => total + (one ?? 0), 0);
const isFilled = (text: string | null) => text !== null && text.trim() !== '';

const total = (document: ReadDocument, name: string) =>
  document.number(`cac:LegalMonetaryTotal/cbc:${name}`) ?? Number.NaN;
const netsOf = (document: ReadDocument, lines: readonly XmlNode[]) =>
  sum(lines.map((line) => document.number('cbc:LineExtensionAmount', line)));

/** The rules of one kind of tax: where lines bear it, the document breaks it down once, for what they come to. */
function ofCategory(id: 'S' | 'Z' | 'E' | 'AE'): Rule[] {
  const bearing = (document: ReadDocument) =>
    document.lines.filter((line) => document.text(CATEGORY, line) === id);
  const parts = (document: ReadDocument) =>
    document.parts.filter((part) => document.text('cac:TaxCategory/cbc:ID', part) === id);
  const seller = 'cac:AccountingSupplierParty/cac:Party/cac:PartyTaxScheme/cbc:CompanyID';
  return [
    {
      id: `BR-${id}-1`,
      breaches: (document) => {
        const count = parts(document).length;
        const wanted = bearing(document).length > 0;
        if (id === 'S')
          return count > 0 === wanted ? [] : ['its breakdown is missing, or is there without lines'];
        return count === (wanted ? 1 : 0) ? [] : [`it is broken down ${count} times`];
      },
    },
    {
      id: `BR-${id}-2`,
      breaches: (document) => {
        if (bearing(document).length === 0) return [];
        const faults = isFilled(document.text(seller)) ? [] : ['the seller has no number for it'];
        const buyer =
          document.text(
            "cac:AccountingCustomerParty/cac:Party/cac:PartyTaxScheme[cac:TaxScheme/cbc:ID='VAT']/cbc:CompanyID",
          ) ?? document.text('cac:AccountingCustomerParty/cac:Party/cac:PartyLegalEntity/cbc:CompanyID');
        return id === 'AE' && !isFilled(buyer) ? [...faults, 'the buyer has no number for it'] : faults;
      },
    },
    {
      id: `BR-${id}-5`,
      breaches: (document) =>
        bearing(document).flatMap((line) => {
          const rate = document.number('cac:Item/cac:ClassifiedTaxCategory/cbc:Percent', line);
          return rate !== null && (id === 'S' ? rate > 0 : rate === 0) ? [] : [`a line has the rate ${rate}`];
        }),
    },
    {
      id: `BR-${id}-8`,
      breaches: (document) =>
        parts(document).flatMap((part) => {
          const rate = document.number('cac:TaxCategory/cbc:Percent', part);
          const of = bearing(document).filter(
            (line) => document.number('cac:Item/cac:ClassifiedTaxCategory/cbc:Percent', line) === rate,
          );
          const taxable = document.number('cbc:TaxableAmount', part) ?? Number.NaN;
          return same(taxable, netsOf(document, of))
            ? []
            : [`${taxable} is taxed, its lines come to ${netsOf(document, of)}`];
        }),
    },
    {
      id: `BR-${id}-9`,
      breaches: (document) =>
        parts(document).flatMap((part) => {
          const tax = document.number('cbc:TaxAmount', part) ?? Number.NaN;
          if (id !== 'S') return tax === 0 ? [] : [`it comes to ${tax}`];
          const taxable = document.number('cbc:TaxableAmount', part) ?? Number.NaN;
          const rate = document.number('cac:TaxCategory/cbc:Percent', part) ?? Number.NaN;
          // Rounded once, to the smallest unit of the currency; what is taken out of a price may be one unit beside it.
          const format = new Intl.NumberFormat('en', {
            style: 'currency',
            currency: document.text('cbc:DocumentCurrencyCode') ?? 'EUR',
          });
          const unit = 10 ** -(format.resolvedOptions().maximumFractionDigits ?? 2);
          const beside = Math.abs(tax - (taxable * rate) / 100);
          return beside <= 1.5 * unit + 1e-9 ? [] : [`${tax} on ${taxable} at ${rate} %`];
        }),
    },
    {
      id: `BR-${id}-10`,
      breaches: (document) =>
        parts(document).flatMap((part) => {
          const reason = document.text('cac:TaxCategory/cbc:TaxExemptionReason', part);
          const wants = id === 'E' || id === 'AE';
          return isFilled(reason) === wants ? [] : [wants ? 'it says no reason' : 'it says a reason'];
        }),
    },
  ];
}

/** ISO 4217 and ISO 3166-1, as far as they are met here; UNTDID 5305; UN/ECE recommendation 20. */
const CURRENCIES = new Set(Intl.supportedValuesOf('currency'));
const COUNTRY = /^[A-Z]{2}$/;

const RULES: readonly Rule[] = [
  ...REQUIRED.map(([id, path]) => ({
    id,
    breaches: (document: ReadDocument) => (isFilled(document.text(path)) ? [] : [`${path} is missing`]),
  })),
  ...OF_LINES.map(([id, path]) => ({
    id,
    breaches: (document: ReadDocument) =>
      document.lines.flatMap((line) =>
        isFilled(document.text(path, line)) ? [] : [`a line has no ${path}`],
      ),
  })),
  {
    id: 'BR-27',
    breaches: (document) =>
      document.lines.flatMap((line) =>
        (document.number('cac:Price/cbc:PriceAmount', line) ?? -1) >= 0 ? [] : ['a price is below zero'],
      ),
  },
  {
    id: 'BR-29',
    breaches: (document) =>
      [document.nodes('cac:InvoicePeriod')[0], ...document.lines].flatMap((at) => {
        const path = at === document.nodes('cac:InvoicePeriod')[0] ? '' : 'cac:InvoicePeriod/';
        const start = document.text(`${path}cbc:StartDate`, at);
        const end = document.text(`${path}cbc:EndDate`, at);
        return start !== null && end !== null && end < start
          ? [`a period ends on ${end} before it starts`]
          : [];
      }),
  },
  {
    id: 'BR-CO-9',
    breaches: (document) =>
      document
        .nodes("//cac:PartyTaxScheme[cac:TaxScheme/cbc:ID='VAT']/cbc:CompanyID")
        .flatMap(({ textContent }) =>
          COUNTRY.test((textContent ?? '').slice(0, 2)) ? [] : [`${textContent} names no country`],
        ),
  },
  {
    id: 'BR-CO-10',
    breaches: (document) =>
      same(total(document, 'LineExtensionAmount'), netsOf(document, document.lines))
        ? []
        : ['the lines come to another sum'],
  },
  {
    id: 'BR-CO-13',
    breaches: (document) =>
      same(total(document, 'TaxExclusiveAmount'), total(document, 'LineExtensionAmount'))
        ? []
        : ['the sum without tax is another'],
  },
  {
    id: 'BR-CO-14',
    breaches: (document) =>
      same(
        document.number('cac:TaxTotal/cbc:TaxAmount') ?? Number.NaN,
        sum(document.parts.map((part) => document.number('cbc:TaxAmount', part))),
      )
        ? []
        : ['the taxes come to another sum'],
  },
  {
    id: 'BR-CO-15',
    breaches: (document) =>
      same(
        total(document, 'TaxInclusiveAmount'),
        total(document, 'TaxExclusiveAmount') + (document.number('cac:TaxTotal/cbc:TaxAmount') ?? Number.NaN),
      )
        ? []
        : ['the sum with tax is another'],
  },
  {
    id: 'BR-CO-16',
    breaches: (document) =>
      same(total(document, 'PayableAmount'), total(document, 'TaxInclusiveAmount'))
        ? []
        : ['what is payable is another sum'],
  },
  {
    id: 'BR-CO-25',
    breaches: (document) =>
      document.isCreditNote || total(document, 'PayableAmount') <= 0 || isFilled(document.text('cbc:DueDate'))
        ? []
        : ['it says not by when it is to be paid'],
  },
  {
    id: 'BR-CO-26',
    breaches: (document) => {
      const party = 'cac:AccountingSupplierParty/cac:Party';
      const numbers = [
        `${party}/cac:PartyIdentification/cbc:ID`,
        `${party}/cac:PartyLegalEntity/cbc:CompanyID`,
        `${party}/cac:PartyTaxScheme[cac:TaxScheme/cbc:ID='VAT']/cbc:CompanyID`,
      ];
      return numbers.some((path) => isFilled(document.text(path)))
        ? []
        : ['nothing names the seller by a number'];
    },
  },
  {
    id: 'BR-DEC',
    breaches: (document) =>
      document
        .nodes('//@currencyID/..')
        .flatMap(({ textContent }) =>
          /^-?\d+(\.\d{1,2})?$/.test(textContent ?? '') ? [] : [`${textContent} is no amount`],
        ),
  },
  {
    id: 'BR-CL',
    breaches: (document) => [
      ...(['380', '381'].includes(document.text('cbc:InvoiceTypeCode | cbc:CreditNoteTypeCode') ?? '')
        ? []
        : ['its type is no code']),
      ...(CURRENCIES.has(document.text('cbc:DocumentCurrencyCode') ?? '') ? [] : ['its currency is no code']),
      ...document
        .nodes('//@currencyID')
        .flatMap((at) =>
          at.nodeValue === document.text('cbc:DocumentCurrencyCode') ? [] : ['another currency'],
        ),
      ...document
        .nodes('//cbc:IdentificationCode')
        .flatMap(({ textContent }) => (COUNTRY.test(textContent ?? '') ? [] : ['no country'])),
      ...document.nodes('//@unitCode').flatMap((at) => (at.nodeValue === 'C62' ? [] : ['no unit'])),
      ...document
        .nodes('//cac:ClassifiedTaxCategory/cbc:ID | //cac:TaxCategory/cbc:ID')
        .flatMap(({ textContent }) =>
          ['S', 'Z', 'E', 'AE'].includes(textContent ?? '') ? [] : [`${textContent} is no kind of tax`],
        ),
    ],
  },
  ...ofCategory('S'),
  ...ofCategory('Z'),
  ...ofCategory('E'),
  ...ofCategory('AE'),
];

/** The order in which UBL 2.1 has the parts of a document that are met here: each may come at most where its schema has it. */
const ORDER =
  'CustomizationID ID IssueDate DueDate InvoiceTypeCode CreditNoteTypeCode Note DocumentCurrencyCode BuyerReference InvoicePeriod ' +
  'OrderReference BillingReference AccountingSupplierParty AccountingCustomerParty TaxTotal LegalMonetaryTotal InvoiceLine CreditNoteLine';

/** Every rule that a document breaks, with what is wrong. */
export function breachesOf(xml: string): string[] {
  const document = new ReadDocument(xml);
  const order = ORDER.split(' ');
  const places = document
    .nodes('*')
    .map((node) => order.indexOf((node as XmlNode & { localName: string }).localName));
  const inOrder = places.every((place, i) => place >= 0 && place >= (places[i - 1] ?? 0));
  return [
    ...(inOrder ? [] : ['UBL: its parts are not in the order of the schema']),
    ...RULES.flatMap(({ id, breaches }) => breaches(document).map((says) => `${id}: ${says}`)),
  ];
}
