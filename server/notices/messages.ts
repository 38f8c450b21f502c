export interface LetterRow {
  readonly id: string;
  readonly writtenOn: string;
  readonly event: string;
  readonly reason: string;
  readonly to: string;
  readonly subject: string;
  readonly state: 'queued' | 'sent' | 'undeliverable';
  readonly fate: string;
  readonly customer: string;
  readonly customerId: string;
  readonly subscriptionId: string | null;
}

export interface LetterView {
  readonly id: string;
  readonly html: string;
  readonly plain: string;
  readonly subject: string;
  readonly to: string;
  /** The documents that went with it, by name. */
  readonly files: readonly string[];
  readonly sentAt: string | null;
  readonly fate: string;
}
