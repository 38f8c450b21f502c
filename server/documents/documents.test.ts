import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';
import * as fc from 'fast-check';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { sayFigure } from '../../core/words/amount.ts';
import { broken, layOutDocument } from './layOutDocument.ts';
import { layOutStatement } from './layOutStatement.ts';
import { printPdf } from './printPdf.ts';
import type { PrintedDocument, PrintedLine, PrintedLook } from './printed.ts';

// Documents as a reader of PDF by other hands reads them back: every line, every sum and every name is there, to the cent.

const LOOK: PrintedLook = { colour: '#0e6655', logo: null };

const printed = (document: PrintedDocument, look = LOOK) =>
  printPdf((drawn) => layOutDocument(document, drawn), look);

const line = (name: string, amount: string, more: Partial<PrintedLine> = {}): PrintedLine => ({
  ...{ name, quantity: 1, amount, discount: '0', settles: null, at: null, tax: 0 },
  ...more,
});

const INVOICE: PrintedDocument = {
  ...{
    kind: 'invoice',
    id: '7',
    customerId: '3',
    number: 'FH-1042',
    issuedOn: '2027-01-04',
    dueOn: '2027-01-18',
  },
  ...{
    periodFrom: '2027-01-04',
    periodTo: '2027-02-04',
    currency: 'GBP',
    net: '5000',
    tax: '1000',
    total: '6000',
  },
  lines: [line('Hive Watch', '5000', { quantity: 3 })],
  taxes: [{ rate: '20.0000', mode: 'exclusive', net: '5000', tax: '1000' }],
  ...{ owed: '6000', dues: [], reason: '', corrects: null, reference: 'A-17', payLink: null },
  fields: [{ label: 'Purchase order', value: 'PO 88/2027' }],
  parties: {
    ...{
      legalName: 'Fenmarsh Hives Ltd',
      address: 'Weir Lane 4\nFenmarsh',
      taxNumber: 'GB 123',
      country: 'GB',
    },
    ...{ note: 'Thank you.', footer: 'Registered in Fenmarsh.' },
    to: {
      ...{
        name: 'Ada Fenn',
        organisation: 'Fenn & Sons',
        address: 'Mill Road 1',
        taxNumber: '',
        taxExempt: '',
      },
      country: 'GB',
    },
  },
};

interface ReadBack {
  readonly pages: string[];
  readonly text: string;
  /** Pieces of text with where they stand, in points from the left. */
  readonly pieces: { readonly text: string; readonly left: number; readonly right: number }[];
  readonly title: string;
}

async function readBack(pdf: Uint8Array): Promise<ReadBack> {
  const loading = getDocument({ data: pdf.slice(), useSystemFonts: false, verbosity: 0 });
  const document = await loading.promise;
  const pages: string[] = [];
  const pieces: ReadBack['pieces'][number][] = [];
  for (let n = 1; n <= document.numPages; n += 1) {
    const { items } = await (await document.getPage(n)).getTextContent();
    const texts = items.flatMap((item) => ('str' in item ? [item] : []));
    pages.push(texts.map(({ str, hasEOL }) => str + (hasEOL ? '\n' : ' ')).join(''));
    for (const { str, transform, width } of texts)
      pieces.push({ text: str, left: Number(transform[4]), right: Number(transform[4]) + width });
  }
  const { info } = await document.getMetadata();
  await loading.destroy();
  const text = pages.join('\n').replace(/\s+/g, ' ');
  return { pages, text, pieces, title: String((info as { Title?: string }).Title) };
}

const read = async (document: PrintedDocument, look = LOOK) => readBack(await printed(document, look));

describe('an invoice that is printed', () => {
  test('says who, to whom, for what, until when, and what it comes to', async () => {
    const { text, title, pages } = await read(INVOICE);
    expect(title).toBe('Invoice FH-1042');
    for (const said of [
      ...['Fenmarsh Hives Ltd', 'Weir Lane 4', 'Tax number GB 123', 'Fenn & Sons', 'Ada Fenn', 'Mill Road 1'],
      ...['Issued Mon 4 Jan 2027', 'To be paid by Mon 18 Jan 2027', '4 Jan 2027 to 4 Feb 2027'],
      ...['Your number A-17', 'Purchase order PO 88/2027', '3 × Hive Watch 50.00', 'Without tax 50.00'],
      ...[
        '20 % tax on 50.00 10.00',
        'Total, GBP 60.00',
        'Thank you.',
        'Registered in Fenmarsh.',
        'Page 1 of 1',
      ],
    ])
      expect(text).toContain(said);
    expect(pages).toHaveLength(1);
  });

  test('of 200 lines goes over several pages, each with its heading, and none of it is lost', async () => {
    const lines = Array.from({ length: 200 }, (_, i) => line(`Jar number ${i}`, String(100 + i)));
    const { text, pages } = await read({ ...INVOICE, lines });
    expect(pages.length).toBeGreaterThan(3);
    for (let i = 0; i < 200; i += 1)
      expect(text).toContain(`Jar number ${i} ${((100 + i) / 100).toFixed(2)}`);
    for (const page of pages.slice(0, -1)) expect(page).toMatch(/For\s+GBP/);
    expect(text).toContain(`Page ${pages.length} of ${pages.length}`);
  });

  test('breaks words that find no room: nothing stands beyond the edge of the paper', async () => {
    const word = 'Bienenzuchtverein'.repeat(30);
    const { text, pieces } = await read({
      ...INVOICE,
      ...{ number: 'N'.repeat(80), lines: [line(word, '5000')] },
      fields: [{ label: 'L'.repeat(60), value: 'V'.repeat(200) }],
      parties: { ...INVOICE.parties, legalName: 'S'.repeat(200), note: 'W'.repeat(900) },
    });
    for (const { text: said, right } of pieces) expect(right, said).toBeLessThanOrEqual(595 - 40);
    expect(text.replaceAll(' ', '')).toContain(word);
  });

  test('has names in Greek, ancient too, in Cyrillic and Vietnamese as they are written', async () => {
    for (const name of [
      'Ελένη Παπαδοπούλου',
      'Ἀρχιμήδης ὁ Ῥόδιος',
      'Дмитро Їжакевич',
      'Nguyễn Thị Ánh Tuyết',
      'Łukasz Żółć',
      'Ğülşen Öztürk',
    ]) {
      const to = { ...INVOICE.parties.to, name } as NonNullable<PrintedDocument['parties']['to']>;
      const { text } = await read({
        ...INVOICE,
        parties: { ...INVOICE.parties, to },
        lines: [line(name, '5000')],
      });
      expect(text.split(name).length, name).toBe(3);
    }
  });

  test('prints amounts with the decimals of their currency', async () => {
    const yen = await read({
      ...INVOICE,
      currency: 'JPY',
      lines: [line('Row', '123456')],
      total: '123456',
      taxes: [],
    });
    expect(yen.text).toContain('Total, JPY 123,456');
    const dinar = await read({
      ...INVOICE,
      currency: 'KWD',
      lines: [line('Row', '4750')],
      total: '4750',
      taxes: [],
    });
    expect(dinar.text).toContain('Total, KWD 4.750');
  });

  test('has the way to pay it as a link that can be pressed and a code that can be read', async () => {
    const payLink = 'https://hives.example/own/12.c2lnbmF0dXJlLXRoYXQtbm9ib2R5LWd1ZXNzZXM';
    const pdf = await printed({ ...INVOICE, payLink });
    expect((await readBack(pdf)).text.replaceAll(' ', '')).toContain(payLink);
    const loading = getDocument({ data: pdf.slice(), verbosity: 0 });
    const page = await (await loading.promise).getPage(1);
    const links = (await page.getAnnotations()) as { url?: string }[];
    await loading.destroy();
    expect(links.map(({ url }) => url)).toContain(payLink);
    expect((await read({ ...INVOICE, payLink, owed: '0' })).text).not.toContain('Pay it online');
  });

  test('shows how many and the price of one where that was chosen, and no price where there is not one', async () => {
    const { text } = await read({
      ...INVOICE,
      parties: { ...INVOICE.parties, columns: 'quantity and price' },
      lines: [
        line('Hive', '2800', { quantity: 3, discount: '200' }),
        line('In tiers', '1000', { quantity: 3 }),
        line('back for Hive', '-210', { settles: 'back for Hive, 21 of 31 days' }),
      ],
    });
    expect(text).toMatch(/For\s+Quantity\s+Price\s+GBP/);
    expect(text).toContain('Hive £2.00 taken off 3 10.00 28.00');
    expect(text).toContain('In tiers 3 10.00');
    expect(text).toContain('back for Hive, 21 of 31 days 1 −2.10');
  });

  test('names each tax beside its lines where there are several, and why there is none', async () => {
    const { text } = await read({
      ...INVOICE,
      lines: [line('Honey', '1000', { tax: 1 }), line('Post', '400'), line('Gift', '300', { tax: null })],
      taxes: [
        { rate: '20', mode: 'exclusive', net: '400', tax: '80' },
        { rate: '5', mode: 'exclusive', net: '1000', tax: '50' },
      ],
    });
    expect(text).toContain('Honey 5 % 10.00 Post 20 % 4.00 Gift 3.00');
    const to = { ...INVOICE.parties.to, taxExempt: 'a registered charity' };
    const free = await read({
      ...INVOICE,
      taxes: [],
      parties: { ...INVOICE.parties, to: to as NonNullable<PrintedDocument['parties']['to']> },
    });
    expect(free.text).toContain('No tax is charged: a registered charity');
  });

  test('is the same to the byte when it is printed again, with a logo, and without one that is broken', async () => {
    const png = await sharp({ create: { width: 60, height: 20, channels: 3, background: '#0e6655' } })
      .png()
      .toBuffer();
    const look = { ...LOOK, logo: `data:image/png;base64,${png.toString('base64')}` };
    const [once, again] = [await printed(INVOICE, look), await printed(INVOICE, look)];
    expect(Buffer.compare(Buffer.from(once), Buffer.from(again))).toBe(0);
    const without = await read(INVOICE, { ...LOOK, logo: 'data:image/png;base64,bm8gcGljdHVyZQ==' });
    expect(without.text).toContain('Total, GBP 60.00');
  });

  test('whatever its lines are, each amount stands on it and in its column', async () => {
    const aLine = fc.record({
      name: fc.string({ maxLength: 90 }),
      amount: fc.integer({ min: -99_999, max: 9_999_999 }),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(aLine, { minLength: 1, maxLength: 30 }), async (some) => {
        const lines = some.map(({ name, amount }) => line(name, String(amount)));
        const { pieces } = await read({ ...INVOICE, lines });
        const edge = 595 - 48;
        for (const { amount } of some)
          expect(
            pieces.some(
              ({ text, right }) => text === sayFigure(BigInt(amount), 'GBP') && Math.abs(right - edge) < 1.5,
            ),
          ).toBe(true);
      }),
      { numRuns: 15 },
    );
  });
});

test('a credit note names what it corrects and why', async () => {
  const { text, title } = await read({
    ...INVOICE,
    ...{ kind: 'credit note', number: 'CN-3', dueOn: null, owed: null, reason: 'A broken pump' },
    corrects: { number: 'FH-1042', issuedOn: '2027-01-04' },
  });
  expect(title).toBe('Credit note CN-3');
  for (const said of [
    'Credit note',
    'Corrects FH-1042 of 4 Jan 2027',
    'A broken pump',
    'Credited, GBP 60.00',
  ])
    expect(text).toContain(said);
  expect(text).not.toContain('To be paid by');
});

test('a statement of account has each movement, and what is owed after it', async () => {
  const account = {
    ...{
      customer: 'Ada Fenn',
      currency: 'GBP',
      currencies: ['GBP'],
      from: '2027-01-01',
      until: '2027-01-31',
    },
    ...{ opening: '1000', closing: '-250' },
    lines: Array.from({ length: 90 }, (_, i) => ({
      ...{
        on: '2027-01-04',
        kind: 'invoice' as const,
        about: `FH-${i}`,
        invoiceId: '1',
        amount: '6000',
        balance: String(7000 + i),
      },
    })),
  };
  const pdf = await printPdf(
    (look) =>
      layOutStatement(
        {
          ...{
            account,
            madeOn: '2027-02-01',
            seller: { legalName: 'Fenmarsh Hives Ltd', address: 'Weir Lane 4' },
          },
          buyer: { name: 'Ada Fenn', organisation: '', address: 'Mill Road 1' },
        },
        look,
      ),
    LOOK,
  );
  const { text, pages } = await readBack(pdf);
  expect(pages.length).toBeGreaterThan(1);
  for (let i = 0; i < 90; i += 1)
    expect(text).toContain(`Invoice FH-${i} 60.00 ${((7000 + i) / 100).toFixed(2)}`);
  expect(text).toContain('Owed before 10.00');
  expect(text).toContain('£2.50 is to your credit on 31 Jan 2027 −2.50');
});

test('words are broken where they must be, and nothing of them is lost', () => {
  fc.assert(
    fc.property(
      fc.string({ maxLength: 200, unit: fc.constantFrom('a', 'ß', ' ', '\n', '-', '7') }),
      (text) => {
        const runs = broken(text, 8);
        if (typeof runs === 'string') expect(text.split(/\s/).every((word) => word.length <= 8)).toBe(true);
        else {
          expect(runs.map((run) => run.text).join('')).toBe(text);
          for (const { text: word, wordBreak } of runs)
            expect(wordBreak === 'break-all').toBe(word.length > 8 && !/\s/.test(word));
        }
      },
    ),
  );
});
