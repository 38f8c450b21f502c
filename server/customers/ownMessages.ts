import type { Debt } from '../recovery/messages.ts';
import type { Thread } from '../../core/thread/thread.ts';

export interface OwnPage {
  readonly business: string;
  readonly writeTo: string;
  readonly customer: string;
  readonly plan: string;
  readonly rate: string;
  readonly state: string;
  readonly currency: string;
  readonly card: { readonly says: string; readonly expires: string; readonly state: string } | null;
  readonly readOnly: boolean;
  readonly thread: Thread;
  readonly businessDate: string;
  readonly debts: readonly Debt[];
  readonly coming: readonly { readonly dueOn: string; readonly due: string }[];
  readonly paid: readonly { readonly number: string; readonly dueOn: string; readonly total: string }[];
}

export interface OwnPaid {
  readonly charged: readonly { readonly invoice: string; readonly outcome: string }[];
}
