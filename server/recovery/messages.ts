export interface CaseStep {
  readonly date: string;
  readonly says: string;
  readonly state: 'done' | 'to come' | 'cancelled';
}

export interface CaseRow {
  readonly id: string;
  readonly state: 'open' | 'recovered' | 'given up';
  readonly openedOn: string;
  readonly closedOn: string | null;
  readonly subscriptionId: string;
  readonly customerId: string;
  readonly customer: string;
  readonly plan: string;
  readonly ladder: string;
  readonly owed: string;
  readonly currency: string;
  readonly why: string;
  readonly says: string;
  readonly steps: readonly CaseStep[];
}

/** A debt that is charged at once when a new card is given, or when the customer pays. */
export interface Debt {
  readonly id: string;
  readonly number: string;
  readonly dueOn: string;
  /** Minor units of the currency. */
  readonly owed: string;
  readonly currency: string;
  /** It is being collected: the banks have it, or an answer is waited for. It is not charged a second time. */
  readonly underWay: boolean;
  /** Its cardholder is asked to confirm the charge, by the end of this day; null: nobody is. */
  readonly confirmBy: string | null;
}
