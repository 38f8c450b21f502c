import type { Content, TableCell, TDocumentDefinitions } from 'pdfmake/interfaces.js';
import { sayAmount, sayFigure } from '../../core/words/amount.ts';
import { sayCountry } from '../../core/words/countries.ts';
import { sayDate, sayDayMonthYear } from '../../core/words/date.ts';
import { sayPercent } from '../../core/words/percent.ts';
import type { PrintedDocument, PrintedLine, PrintedLook } from './printed.ts';

const MUTED = '#5a6b70';
const LINE = '#d5deda';
/** A4 in points, and what is left of its width between the margins. */
const MARGIN = 48;
const WIDTH = 595 - 2 * MARGIN;
/** A word longer than this finds no room in any column: it is broken where it may be. */
const LONGEST_WORD = 24;

/** Lays a document out for A4: the head, the parties, the lines over as many pages as they take, the taxes and the sums. */
export function layOutDocument(document: PrintedDocument, look: PrintedLook): TDocumentDefinitions {
  const title = document.kind === 'invoice' ? 'Invoice' : 'Credit note';
  return {
    pageSize: 'A4',
    ...(document.isPreview
      ? { watermark: { text: 'Preview', color: MUTED, opacity: 0.12, bold: true, angle: -35 } }
      : {}),
    pageMargins: [MARGIN, MARGIN, MARGIN, 64],
    info: {
      title: `${title} ${document.number}`,
      author: document.parties.legalName ?? '',
      // As it was issued: printed again it is the same to the byte.
      creationDate: new Date(`${document.issuedOn}T00:00:00Z`),
    },
    defaultStyle: {
      ...{ font: 'Text', fontSize: 9.5, lineHeight: 1.25, color: '#16262b' },
      // Figures of one width, so that columns stand.
      fontFeatures: ['tnum'],
    },
    content: [
      head(title, document, look),
      parties(document),
      ...(document.reason === ''
        ? []
        : [{ text: broken(document.reason), margin: [0, 12, 0, 0] } as Content]),
      ...(document.parties.note
        ? [{ text: broken(document.parties.note), margin: [0, 16, 0, 0] } as Content]
        : []),
      lines(document, look),
      sums(document, look),
      ...dues(document),
      ...payment(document, look),
      ...(document.parties.footer
        ? [{ text: broken(document.parties.footer), color: MUTED, margin: [0, 12, 0, 0] } as Content]
        : []),
    ],
    footer: (page, pages) => ({
      margin: [MARGIN, 16, MARGIN, 0],
      columns: [
        {
          text: broken(`${title} ${document.number}, ${document.parties.legalName ?? ''}`, 60),
          color: MUTED,
          fontSize: 8,
        },
        { text: `Page ${page} of ${pages}`, alignment: 'right', color: MUTED, fontSize: 8, width: 90 },
      ],
    }),
  };
}

function head(title: string, document: PrintedDocument, look: PrintedLook): Content {
  const name: Content = look.logo
    ? { image: look.logo, fit: [200, 56] }
    : { text: broken(document.parties.legalName ?? ''), fontSize: 15, bold: true, color: look.colour };
  return {
    columns: [
      { width: '*', stack: [name] },
      {
        width: 240,
        stack: [
          { text: title, fontSize: 18, bold: true, color: look.colour, alignment: 'right' },
          { text: broken(document.number), fontSize: 12, alignment: 'right' },
        ],
      },
    ],
  };
}

function parties(document: PrintedDocument): Content {
  const { parties: of } = document;
  const seller = [
    of.legalName ?? '',
    ...linesOf(of.address),
    of.country ? sayCountry(of.country) : '',
    of.taxNumber ? `Tax number ${of.taxNumber}` : '',
  ];
  const buyer = [
    of.to?.organisation ?? '',
    of.to?.name ?? '',
    ...linesOf(of.to?.address),
    of.to?.country ? sayCountry(of.to.country) : '',
    of.to?.taxNumber ? `Tax number ${of.to.taxNumber}` : '',
  ];
  const facts: [string, string][] = [
    ['Issued', sayDate(document.issuedOn)],
    ...(document.dueOn === null ? [] : [['To be paid by', sayDate(document.dueOn)] as [string, string]]),
    ['For', sayPeriod(document)],
    ...(document.corrects
      ? [
          ['Corrects', `${document.corrects.number} of ${sayDayMonthYear(document.corrects.issuedOn)}`] as [
            string,
            string,
          ],
        ]
      : []),
    ...(document.reference === '' ? [] : [['Your number', document.reference] as [string, string]]),
    ...document.fields.map(({ label, value }) => [label, value] as [string, string]),
  ];
  return {
    margin: [0, 24, 0, 0],
    columnGap: 16,
    columns: [
      { width: '*', stack: [{ text: 'From', color: MUTED }, ...said(seller)] },
      { width: '*', stack: [{ text: 'To', color: MUTED }, ...said(buyer)] },
      {
        width: 190,
        layout: 'noBorders',
        table: {
          widths: [70, '*'],
          body: facts.map(([label, value]) => [
            { text: broken(label, 12), color: MUTED, margin: [0, -2, 0, -2] },
            { text: broken(value, 18), margin: [0, -2, 0, -2] },
          ]),
        },
      },
    ],
  };
}

const linesOf = (text: string | undefined) => (text ?? '').split('\n');
const said = (texts: readonly string[]): Content[] =>
  texts.filter((text) => text.trim() !== '').map((text) => ({ text: broken(text) }));

/** The service period in words, up to the day on which the next begins: '4 Jan 2027 to 4 Feb 2027'; or one day. */
export function sayPeriod({
  periodFrom,
  periodTo,
}: Pick<PrintedDocument, 'periodFrom' | 'periodTo'>): string {
  return periodFrom === periodTo
    ? sayDayMonthYear(periodFrom)
    : `${sayDayMonthYear(periodFrom)} to ${sayDayMonthYear(periodTo)}`;
}

/** One column of the lines: its heading, its width, and what stands in it. */
interface Column {
  readonly heading: string;
  readonly width: number | '*';
  readonly of: (line: PrintedLine) => TableCell;
}

function lines(document: PrintedDocument, look: PrintedLook): Content {
  const columns = columnsOf(document);
  return {
    margin: [0, 20, 0, 0],
    layout: {
      hLineWidth: (i, node) => (i === 0 || i > 1 || i === node.table.body.length ? 0.5 : 1),
      vLineWidth: () => 0,
      hLineColor: (i) => (i === 1 ? look.colour : LINE),
      paddingLeft: (i) => (i === 0 ? 0 : 6),
      paddingRight: (i) => (i === columns.length - 1 ? 0 : 6),
    },
    table: {
      headerRows: 1,
      dontBreakRows: true,
      widths: columns.map(({ width }) => width),
      body: [
        columns.map(({ heading }, i): TableCell => ({
          ...{ text: heading, color: MUTED, alignment: i === 0 ? 'left' : 'right' },
        })),
        ...document.lines.map((line) => columns.map(({ of }) => of(line))),
      ],
    },
  };
}

/** What stands of each line: what it is for and its amount; how many and the price of one, where that was chosen; its tax. */
function columnsOf({ currency, taxes, lines: all, parties }: PrintedDocument): Column[] {
  const counts = parties.columns === 'quantity and price';
  const severalTaxes = taxes.length > 1 || all.some(({ tax }) => tax === null && taxes.length > 0);
  const right = (text: string): TableCell => ({ text, alignment: 'right' });
  const quiet = (text: string) => ({ text: broken(text), color: MUTED, fontSize: 8.5 });
  const named = ({ settles, name, quantity }: PrintedLine) =>
    settles ?? `${counts || quantity === 1 ? '' : `${quantity} × `}${name || 'Subscription'}`;
  return [
    {
      ...{ heading: 'For', width: '*' },
      of: (line) => ({
        stack: [
          { text: broken(named(line)) },
          ...(line.at === null ? [] : [quiet(line.at)]),
          ...(line.discount === '0'
            ? []
            : [quiet(`${sayAmount(BigInt(line.discount), currency)} taken off`)]),
        ],
      }),
    },
    ...(counts
      ? [
          { heading: 'Quantity', width: 44, of: ({ quantity }: PrintedLine) => right(String(quantity)) },
          { heading: 'Price', width: 70, of: (line: PrintedLine) => right(priceOfOne(line, currency)) },
        ]
      : []),
    ...(severalTaxes
      ? [
          {
            ...{ heading: 'Tax', width: 44 },
            of: ({ tax }: PrintedLine) => right(tax === null ? '' : sayPercent(taxes[tax]?.rate ?? '')),
          },
        ]
      : []),
    { heading: currency, width: 86, of: ({ amount }) => right(sayFigure(BigInt(amount), currency)) },
  ];
}

/** The price of one before what was taken off; nothing where the line is not so many times one price, as with tiers. */
function priceOfOne({ amount, discount, quantity, settles }: PrintedLine, currency: string): string {
  const whole = BigInt(amount) + BigInt(discount);
  if (settles !== null || quantity < 1 || whole % BigInt(quantity) !== 0n) return '';
  return sayFigure(whole / BigInt(quantity), currency);
}

function sums(document: PrintedDocument, look: PrintedLook): Content {
  const { currency, taxes } = document;
  const figure = (amount: string) => sayFigure(BigInt(amount), currency);
  const row = (label: string, value: string, strong = false): TableCell[] => [
    { text: label, ...(strong ? { bold: true, color: look.colour } : {}) },
    { text: value, alignment: 'right', ...(strong ? { bold: true } : {}) },
  ];
  const total = document.kind === 'invoice' ? 'Total' : 'Credited';
  const rows = [
    ...(taxes.length > 0 ? [row('Without tax', figure(document.net))] : []),
    ...taxes
      .filter(({ net, tax }) => net !== '0' || tax !== '0')
      .map(({ rate, net, tax }) => row(`${sayPercent(rate)} tax on ${figure(net)}`, figure(tax))),
    row(`${total}, ${currency}`, figure(document.total), true),
    ...(document.owed !== null && document.owed !== document.total
      ? [row('Still to be paid', figure(document.owed), true)]
      : []),
  ];
  const exempt = document.parties.to?.taxExempt;
  return {
    unbreakable: true,
    margin: [0, 8, 0, 0],
    columns: [
      {
        width: '*',
        text: taxes.length === 0 && exempt ? broken(`No tax is charged: ${exempt}`) : '',
        color: MUTED,
      },
      { width: 250, layout: 'noBorders', table: { widths: ['*', 90], body: rows } },
    ],
  };
}

function dues({ dues: parts, currency }: PrintedDocument): Content[] {
  if (parts.length < 2) return [];
  return [
    {
      margin: [0, 12, 0, 0],
      stack: [
        { text: `It is paid in ${parts.length} parts:`, color: MUTED },
        ...parts.map(({ dueOn, amount }) => ({
          text: `${sayAmount(BigInt(amount), currency)} by ${sayDate(dueOn)}`,
        })),
      ],
    },
  ];
}

function payment({ payLink, owed }: PrintedDocument, look: PrintedLook): Content[] {
  if (payLink === null || owed === '0') return [];
  return [
    {
      unbreakable: true,
      margin: [0, 20, 0, 0],
      columnGap: 12,
      columns: [
        { width: 76, qr: payLink, fit: 76, foreground: '#16262b', eccLevel: 'M' },
        {
          width: WIDTH - 88,
          margin: [0, 10, 0, 0],
          stack: [
            { text: 'Pay it online', bold: true },
            { text: broken(payLink, 90), link: payLink, color: look.colour, fontSize: 8.5 },
          ],
        },
      ],
    },
  ];
}

/** A part of a text; one long word of it may be broken anywhere. */
interface Run {
  readonly text: string;
  readonly wordBreak?: 'break-all';
}

/**
 * A text whose words find room: those that are longer than any column may be broken anywhere, all others only where words end.
 * @param most so many signs of a word find room where it stands
 */
export function broken(text: string, most = LONGEST_WORD): string | Run[] {
  const parts = text.split(/(\S+)/u);
  const isLong = (part: string) => [...part].length > most && !/\s/u.test(part);
  if (!parts.some(isLong)) return text;
  const runs: Run[] = [];
  for (const part of parts) {
    if (part === '') continue;
    const last = runs.at(-1);
    if (isLong(part)) runs.push({ text: part, wordBreak: 'break-all' });
    else if (last && last.wordBreak === undefined) runs.splice(-1, 1, { text: last.text + part });
    else runs.push({ text: part });
  }
  return runs;
}
