import type { Column, Content, ContentColumns, TableCell, TDocumentDefinitions } from 'pdfmake/interfaces.js';
import { sayAmount, sayFigure } from '../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../core/words/date.ts';
import { ACCOUNT_KINDS, type AccountView } from '../customers/accountMessages.ts';
import { broken } from './layOutDocument.ts';
import type { PrintedLook } from './printed.ts';

const MUTED = '#5a6b70';
const MARGIN = 48;

/** A statement of account with who states it: plain data, for a thread that prints. */
export interface PrintedStatement {
  readonly account: AccountView;
  /** The day on which it is made, which is the last that it can tell of. */
  readonly madeOn: string;
  readonly seller: { readonly legalName: string; readonly address: string };
  readonly buyer: { readonly name: string; readonly organisation: string; readonly address: string };
}

/** Lays a statement of account out for A4. */
export function layOutStatement(
  { account, madeOn, seller, buyer }: PrintedStatement,
  look: PrintedLook,
): TDocumentDefinitions {
  const { currency, lines, opening, closing, from, until } = account;
  const figure = (amount: string) => sayFigure(BigInt(amount), currency);
  const right = (text: string, bold = false): TableCell => ({ text, alignment: 'right', bold });
  const span = from <= '0001-01-01' ? `until ${sayDate(until)}` : `${sayDate(from)} to ${sayDate(until)}`;
  const party = (heading: string, texts: readonly string[]): Column => ({
    width: '*',
    stack: [
      { text: heading, color: MUTED },
      ...texts.filter((text) => text.trim() !== '').map((text) => ({ text: broken(text) })),
    ],
  });
  const named: Content = look.logo
    ? { image: look.logo, fit: [200, 56] }
    : { text: broken(seller.legalName), fontSize: 15, bold: true, color: look.colour };
  const heading: ContentColumns = {
    columns: [
      { width: '*', stack: [named] },
      {
        ...{ text: 'Statement of account', fontSize: 18, bold: true },
        ...{ color: look.colour, alignment: 'right', width: 260 },
      },
    ],
  };
  return {
    pageSize: 'A4',
    pageMargins: [MARGIN, MARGIN, MARGIN, 64],
    info: {
      title: `Statement of account, ${account.customer}`,
      author: seller.legalName,
      creationDate: new Date(`${madeOn}T00:00:00Z`),
    },
    defaultStyle: {
      ...{ font: 'Text', fontSize: 9.5, lineHeight: 1.25, color: '#16262b' },
      fontFeatures: ['tnum'],
    },
    content: [
      heading,
      {
        margin: [0, 24, 0, 0],
        columns: [
          party('From', [seller.legalName, ...seller.address.split('\n')]),
          party('To', [buyer.organisation, buyer.name, ...buyer.address.split('\n')]),
        ],
      },
      { text: span, margin: [0, 18, 0, 6] },
      {
        layout: 'lightHorizontalLines',
        table: {
          headerRows: 1,
          dontBreakRows: true,
          widths: [62, '*', 84, 84],
          body: [
            ['Day', 'What', '', ''].map((text, i): TableCell =>
              i < 2
                ? { text, color: MUTED }
                : { text: i === 2 ? currency : 'Owed', color: MUTED, alignment: 'right' },
            ),
            ['', 'Owed before', '', right(figure(opening))],
            ...lines.map(({ on, kind, about, amount, balance }): TableCell[] => [
              sayDayMonthYear(on),
              { text: broken(`${ACCOUNT_KINDS[kind]} ${about}`) },
              right(figure(amount)),
              right(figure(balance)),
            ]),
            ['', { text: sayClosing(account), bold: true }, '', right(figure(closing), true)],
          ],
        },
      },
    ],
    footer: (page, pages) => ({
      margin: [MARGIN, 16, MARGIN, 0],
      columns: [
        { text: broken(`Statement of account, ${account.customer}`, 60), color: MUTED, fontSize: 8 },
        { text: `Page ${page} of ${pages}`, alignment: 'right', color: MUTED, fontSize: 8, width: 90 },
      ],
    }),
  };
}

/** What an account comes to, in words: owed, to their credit, or nothing. */
export function sayClosing({ closing, currency, until }: AccountView): string {
  const owed = BigInt(closing);
  const on = sayDayMonthYear(until);
  if (owed === 0n) return `Nothing is owed on ${on}`;
  return owed > 0n
    ? `${sayAmount(owed, currency)} is owed on ${on}`
    : `${sayAmount(-owed, currency)} is to your credit on ${on}`;
}
