import * as fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseDecimal } from '../../core/money/decimal.ts';
import { taxGroups } from '../../core/pricing/tax.ts';
import { breachesOf, ReadDocument } from '../../testing/en16931/rules.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { PrintedDocument } from './printed.ts';
import { ublOf } from './ubl.ts';

// UBL held against the rules of EN 16931, which are written from the standard alone and read the file by another hand.

const TO = {
  name: 'Ada Fenn',
  organisation: 'Fenn & Sons',
  address: 'Mill Road 1\nFenmarsh',
  taxNumber: '',
  taxExempt: '',
  country: 'NL',
};

/** A document of some lines, taxed as payments are. */
function documentOf(
  lines: readonly {
    amount: bigint;
    rate: string | null;
    mode: 'exclusive' | 'inclusive';
    quantity?: number;
    name?: string;
  }[],
  more: Partial<PrintedDocument> = {},
): PrintedDocument {
  const taxed = lines.map((line) => ({
    ...line,
    tax: line.rate === null ? null : { rate: parseDecimal(line.rate, 4), mode: line.mode },
  }));
  const groups = taxGroups(taxed);
  const named = groups.filter(({ tax }) => tax !== null);
  const sum = (of: 'net' | 'tax' | 'total') =>
    groups.reduce((total, { taxed: one }) => total + one[of], 0n).toString();
  return {
    ...{
      kind: 'invoice',
      id: '7',
      customerId: '3',
      number: 'FH-1042',
      issuedOn: '2027-01-04',
      dueOn: '2027-01-18',
    },
    ...{ periodFrom: '2027-01-04', periodTo: '2027-02-04', currency: 'GBP' },
    ...{ net: sum('net'), tax: sum('tax'), total: sum('total') },
    lines: taxed.map(({ amount, tax, quantity = 1, name = 'Hive' }) => {
      const at = named.findIndex((group) => group.tax?.rate === tax?.rate && group.tax?.mode === tax?.mode);
      return {
        ...{ name, quantity, amount: amount.toString(), discount: '0', settles: null, at: null },
        tax: tax === null ? null : at,
      };
    }),
    taxes: named.map(({ tax, taxed: one }) => ({
      ...{ rate: (Number(tax?.rate ?? 0n) / 10_000).toString(), mode: tax?.mode ?? 'exclusive' },
      ...{ net: one.net.toString(), tax: one.tax.toString() },
    })),
    ...{
      owed: sum('total'),
      dues: [],
      reason: '',
      corrects: null,
      reference: 'A-17',
      payLink: null,
      fields: [],
    },
    parties: {
      legalName: 'Fenmarsh Hives Ltd',
      address: 'Weir Lane 4\nFenmarsh\nFenshire',
      taxNumber: 'GB 123456789',
      country: 'GB',
      to: TO,
    },
    ...more,
  };
}

const written = (document: PrintedDocument) => ublOf(document).bytes.toString('utf8');

describe('an invoice as UBL', () => {
  test('says the same to the cent as the invoice, to a reader by another hand', () => {
    const document = documentOf(
      [
        { amount: 5000n, rate: '20', mode: 'exclusive', quantity: 3, name: 'Watch <&>' },
        { amount: -210n, rate: '20', mode: 'exclusive', name: 'back for Hive' },
      ],
      { fields: [{ label: 'Purchase order', value: 'PO 88' }] },
    );
    const xml = written(document);
    expect(breachesOf(xml)).toEqual([]);
    const read = new ReadDocument(xml);
    expect(read.text('cbc:ID')).toBe('FH-1042');
    expect(read.text('cac:LegalMonetaryTotal/cbc:PayableAmount')).toBe('57.48');
    expect(read.text('cac:OrderReference/cbc:ID')).toBe('PO 88');
    expect([
      read.text('cac:InvoicePeriod/cbc:StartDate'),
      read.text('cac:InvoicePeriod/cbc:EndDate'),
    ]).toEqual(['2027-01-04', '2027-02-03']);
    expect(read.lines.map((line) => read.text('cac:Item/cbc:Name', line))).toEqual([
      'Watch <&>',
      'back for Hive',
    ]);
    expect(read.lines.map((line) => read.text('cbc:InvoicedQuantity', line))).toEqual(['3', '-1']);
    expect(read.text("//cac:PartyTaxScheme[cac:TaxScheme/cbc:ID='VAT']/cbc:CompanyID")).toBe('GB123456789');
  });

  test('whatever its lines and taxes are, keeps every rule, and comes to what was invoiced', () => {
    const aLine = fc.record({
      amount: fc.bigInt({ min: -50_000n, max: 5_000_000n }),
      rate: fc.constantFrom(null, '0', '5', '8.875', '20', '21'),
      mode: fc.constantFrom('exclusive' as const, 'inclusive' as const),
      quantity: fc.integer({ min: 1, max: 99 }),
      name: fc.string({ maxLength: 60 }),
    });
    fc.assert(
      fc.property(
        fc.array(aLine, { minLength: 1, maxLength: 8 }),
        fc.constantFrom('', 'a registered charity', 'Reverse charge'),
        fc.constantFrom('', 'NL001234567B01', '12-345'),
        (lines, taxExempt, taxNumber) => {
          // One way of taxing a rate at a time: a business prices with or without tax.
          const mode = lines[0]?.mode ?? 'exclusive';
          const base = documentOf(lines.map((line) => ({ ...line, mode })));
          const document = { ...base, parties: { ...base.parties, to: { ...TO, taxExempt, taxNumber } } };
          const xml = written(document);
          expect(breachesOf(xml)).toEqual([]);
          const payable = new ReadDocument(xml).number('cac:LegalMonetaryTotal/cbc:PayableAmount') ?? 0;
          expect(Math.round(payable * 100)).toBe(Number(document.total));
        },
      ),
      { numRuns: 300 },
    );
  });

  test('of a credit note names what it corrects', () => {
    const xml = written(
      documentOf([{ amount: 1200n, rate: '20', mode: 'inclusive' }], {
        ...{ kind: 'credit note', number: 'CN-3', dueOn: null, reason: 'A broken pump' },
        corrects: { number: 'FH-1042', issuedOn: '2027-01-04' },
      }),
    );
    expect(breachesOf(xml)).toEqual([]);
    const read = new ReadDocument(xml);
    expect(read.isCreditNote).toBe(true);
    expect(read.text('cac:BillingReference/cac:InvoiceDocumentReference/cbc:ID')).toBe('FH-1042');
    expect(read.text('cbc:Note')).toBe('A broken pump');
    expect(read.text('cac:CreditNoteLine/cbc:CreditedQuantity')).toBe('1');
  });

  test('has amounts as their currency has them, and is refused where the standard knows none', () => {
    const yen = written(documentOf([{ amount: 1234n, rate: '10', mode: 'exclusive' }], { currency: 'JPY' }));
    expect(breachesOf(yen)).toEqual([]);
    expect(new ReadDocument(yen).text('cac:LegalMonetaryTotal/cbc:PayableAmount')).toBe('1357');
    const base = documentOf([{ amount: 1234n, rate: '20', mode: 'exclusive' }]);
    for (const [lacks, says] of [
      [{ ...base, currency: 'KWD' }, /two decimals/],
      [{ ...base, parties: { ...base.parties, taxNumber: '' } }, /tax number of the business/],
      [{ ...base, parties: { ...base.parties, country: '' } }, /country of the business/],
      [{ ...base, parties: { ...base.parties, legalName: '' } }, /name of the business/],
    ] as const) {
      expect(() => ublOf(lacks as PrintedDocument)).toThrow(RefusedCommand);
      expect(() => ublOf(lacks as PrintedDocument)).toThrow(says);
    }
  });

  test('the rules see what is wrong: each of these is found', () => {
    const xml = written(documentOf([{ amount: 5000n, rate: '20', mode: 'exclusive' }]));
    for (const [from, to, rule] of [
      ['<cbc:PayableAmount currencyID="GBP">60.00', '<cbc:PayableAmount currencyID="GBP">60.01', 'BR-CO-16'],
      ['<cbc:DueDate>2027-01-18</cbc:DueDate>', '', 'BR-CO-25'],
      ['<cbc:ID>FH-1042</cbc:ID>', '<cbc:ID></cbc:ID>', 'BR-2'],
      ['<cbc:TaxableAmount currencyID="GBP">50.00', '<cbc:TaxableAmount currencyID="GBP">51.00', 'BR-S-8'],
      ['<cbc:Percent>20</cbc:Percent>', '<cbc:Percent>0</cbc:Percent>', 'BR-S-'],
      ['>50.00</cbc:LineExtensionAmount>', '>50.000</cbc:LineExtensionAmount>', 'BR-DEC'],
      ['unitCode="C62"', 'unitCode="each"', 'BR-CL'],
      ['<cbc:IdentificationCode>NL', '<cbc:IdentificationCode>', 'BR-11'],
      ['<cbc:IssueDate>2027-01-04</cbc:IssueDate>', '', 'BR-3'],
    ] as const) {
      expect(xml, from).toContain(from);
      expect(breachesOf(xml.replace(from, to)).join(' '), rule).toContain(rule);
    }
  });
});
