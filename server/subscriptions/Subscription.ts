import type { Place } from '../customers/placeMessages.ts';
import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import {
  date,
  dateOrNone,
  identity,
  json,
  jsonOrNone,
  reference,
  referenceOrNone,
  text,
  textOrNone,
  whole,
  table,
} from '../db/columns.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import type { LineSource } from '../../core/terms/law.ts';
import type { ChosenExtra } from '../../core/offer/extras.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import type { CancelledBy, EndedWhy, SubscriptionState, WithoutMethod } from './states.ts';

/** One customer's running agreement. `walk` is where the calculation stands; `wakeOn` the next day on which something happens. */
export class Subscription extends Model<
  InferAttributes<Subscription>,
  InferCreationAttributes<Subscription>
> {
  declare id: CreationOptional<string>;
  declare reference: string;
  declare customerId: string;
  declare rateId: string;
  /** The version of the rate that its terms are of. */
  declare rateVersion: CreationOptional<number>;
  declare terms: Terms;
  declare walk: CreationOptional<WalkPosition | null>;
  declare state: SubscriptionState;
  declare endedWhy: CreationOptional<EndedWhy | null>;
  declare startsOn: string;
  declare trialEndsOn: CreationOptional<string | null>;
  declare endsOn: CreationOptional<string | null>;
  declare wakeOn: CreationOptional<string | null>;
  declare closedOn: CreationOptional<string | null>;
  declare heldOn: CreationOptional<string | null>;
  /** Since when its service is stopped, until what is owed is paid. */
  declare serviceStoppedOn: CreationOptional<string | null>;
  declare enrolledOn: string;
  /** The tax paid by the law of each day; null where the terms name their own, or none is charged. */
  declare taxId: CreationOptional<string | null>;
  /** Whose working days due dates keep to (a country, or empty for everywhere), and where others move. */
  declare worksBy: CreationOptional<string | null>;
  declare shift: CreationOptional<'next' | 'previous' | null>;
  declare invoiceFields: CreationOptional<InvoiceField[]>;
  declare variantId: CreationOptional<string | null>;
  /** The rate card whose prices it has. */
  declare rateCardId: CreationOptional<string | null>;
  /** The extra lines taken: those that recur follow the rate's own lines in this order. */
  declare extras: CreationOptional<ChosenExtra[]>;
  /** What was answered to what the plan asks. */
  declare answers: CreationOptional<InvoiceField[]>;
  /** Whether charges are made by themselves, or each invoice waits for the customer. */
  declare collects: CreationOptional<'automatic' | 'by hand'>;
  /** Whether each payment has its invoice, or one invoice stands for the whole of a fixed term, with dated dues. */
  declare invoicing: CreationOptional<'each' | 'whole'>;
  /** So many days before it begins a full period is invoiced. */
  declare issueBefore: CreationOptional<number>;
  /** Who has cancelled it, where its end is not the one agreed to. */
  declare cancelledBy: CreationOptional<CancelledBy | null>;
  /** What happens when its trial ends and there is still no card; null: nothing, or it has happened. */
  declare withoutMethod: CreationOptional<WithoutMethod | null>;
  /** Where it is served or shipped to; null: where its customer is billed. */
  declare servedAt: CreationOptional<Place | null>;
  /** Lines of other plans, with the taxes and accounts of their own rates; null: there are none. It only ever grows. */
  declare lineSources: CreationOptional<LineSource[] | null>;
  /** The method that is charged for it before the customer's others. */
  declare ownMethodId: CreationOptional<string | null>;

  static setup(sequelize: Sequelize): void {
    Subscription.init(
      {
        id: identity(),
        reference: text(),
        customerId: reference(),
        rateId: reference(),
        rateVersion: { ...whole(), defaultValue: 1 },
        terms: json(),
        walk: jsonOrNone(),
        state: text(),
        endedWhy: textOrNone(),
        startsOn: date(),
        trialEndsOn: dateOrNone(),
        endsOn: dateOrNone(),
        wakeOn: dateOrNone(),
        closedOn: dateOrNone(),
        heldOn: dateOrNone(),
        serviceStoppedOn: dateOrNone(),
        enrolledOn: date(),
        taxId: referenceOrNone(),
        worksBy: textOrNone(),
        shift: textOrNone(),
        invoiceFields: { ...json(), defaultValue: [] },
        variantId: referenceOrNone(),
        rateCardId: referenceOrNone(),
        extras: { ...json(), defaultValue: [] },
        answers: { ...json(), defaultValue: [] },
        collects: { ...text(), defaultValue: 'automatic' },
        invoicing: { ...text(), defaultValue: 'each' },
        issueBefore: { ...whole(), defaultValue: 0 },
        cancelledBy: textOrNone(),
        withoutMethod: textOrNone(),
        ownMethodId: referenceOrNone(),
        servedAt: jsonOrNone(),
        lineSources: jsonOrNone(),
      },
      table(sequelize, 'subscriptions'),
    );
  }
}
