import type { Almanac } from '../almanac.ts';
import type { CreditWhy } from './credit.ts';

/** A customer's credit in one currency: what is at hand, and what it came from and went to, the newest first. */
export interface CreditView {
  readonly currency: string;
  /** Minor units, digits only. */
  readonly credit: string;
  readonly moves: readonly CreditMoveView[];
}

export interface CreditMoveView {
  readonly id: string;
  readonly movedOn: string;
  readonly why: CreditWhy;
  readonly amount: string;
  /** What was at hand after it. */
  readonly after: string;
  readonly invoiceId: string | null;
  /** With the prefix of its series, as every number here. */
  readonly invoice: string | null;
  readonly creditNoteId: string | null;
  readonly creditNote: string | null;
  readonly refundId: string | null;
}

/** So many moves are read of each currency: what was long ago stands in statements of account. */
const MOST = 200;

/** The statement of a customer's credit. */
export async function creditStatement({ db }: Almanac, customerId: string): Promise<CreditView[]> {
  const balances = await db.rows<{ currency: string; credit: string }>(
    'select currency, credit::text from credit_balances where customer_id = $customerId order by currency',
    { customerId },
  );
  const moves = await db.rows<CreditMoveView & { readonly currency: string }>(
    `select * from (
       select m.id::text, m.currency, m.moved_on as "movedOn", m.why, m.amount::text,
         (sum(m.amount) over (partition by m.currency order by m.id))::text as after,
         m.invoice_id::text as "invoiceId", i.prefix || i.number as invoice,
         m.credit_note_id::text as "creditNoteId", n.prefix || n.number as "creditNote", m.refund_id::text as "refundId",
         row_number() over (partition by m.currency order by m.id desc) as nth
       from credit_moves m left join invoices i on i.id = m.invoice_id left join credit_notes n on n.id = m.credit_note_id
       where m.customer_id = $customerId) moved
     where nth <= $most order by nth`,
    { customerId, most: MOST },
  );
  return balances.map(({ currency, credit }) => ({
    ...{ currency, credit },
    moves: moves.filter((move) => move.currency === currency),
  }));
}
