import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import {
  date,
  identity,
  json,
  jsonOrNone,
  money,
  reference,
  referenceOrNone,
  text,
  table,
} from '../db/columns.ts';
import type { PaymentKind } from '../../core/listing/payment.ts';
import type { InvoiceField, InvoiceLine, InvoiceState, InvoiceTax, KeptLawTax } from './invoiceParts.ts';

/** An issued invoice: it never changes but for what is collected on it. */
export class Invoice extends Model<InferAttributes<Invoice>, InferCreationAttributes<Invoice>> {
  declare id: CreationOptional<string>;
  declare number: string;
  declare subscriptionId: string;
  declare customerId: string;
  declare caseId: CreationOptional<string | null>;
  declare kind: PaymentKind;
  declare periodFrom: string;
  declare periodTo: string;
  declare issuedOn: string;
  declare dueOn: string;
  declare currency: string;
  declare lines: InvoiceLine[];
  declare taxes: InvoiceTax[];
  declare discount: bigint;
  declare net: bigint;
  declare tax: bigint;
  declare total: bigint;
  declare creditUsed: CreationOptional<bigint>;
  /** What credit notes took off what it lacked. */
  declare credited: CreationOptional<bigint>;
  declare collected: CreationOptional<bigint>;
  /** What it still lacks, in minor units: kept by the database itself. Of what was written off, what was given up. */
  declare readonly owed: CreationOptional<bigint>;
  declare state: InvoiceState;
  /** Of the series as it was when the number was given; it stands before the number. */
  declare prefix: CreationOptional<string>;
  /** Who issued it and to whom, as both were on that day: the row of them. */
  declare partiesId: string;
  declare fields: CreationOptional<InvoiceField[]>;
  /** The account of the books that its rate names on that day; empty: none. */
  declare account: CreationOptional<string>;
  /** The tax that the law asked for on that day, where the terms leave it to the law; null for none. */
  declare lawTax: CreationOptional<KeptLawTax | null>;

  static setup(sequelize: Sequelize): void {
    Invoice.init(
      {
        id: identity(),
        number: reference(),
        subscriptionId: reference(),
        customerId: reference(),
        caseId: referenceOrNone(),
        kind: text(),
        periodFrom: date(),
        periodTo: date(),
        issuedOn: date(),
        dueOn: date(),
        currency: text(),
        lines: json(),
        taxes: json(),
        discount: money('discount'),
        net: money('net'),
        tax: money('tax'),
        total: money('total'),
        creditUsed: { ...money('creditUsed'), defaultValue: 0 },
        credited: { ...money('credited'), defaultValue: 0 },
        collected: { ...money('collected'), defaultValue: 0 },
        owed: money('owed'),
        state: text(),
        prefix: { ...text(), defaultValue: '' },
        partiesId: reference(),
        fields: { ...json(), defaultValue: [] },
        account: { ...text(), defaultValue: '' },
        lawTax: jsonOrNone(),
      },
      table(sequelize, 'invoices'),
    );
  }
}
