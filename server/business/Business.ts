import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, flag, money, text, table } from '../db/columns.ts';

/** The one business that this database serves. `businessDate` is the practice clock; production takes its date from the clock. */
export class Business extends Model<InferAttributes<Business>, InferCreationAttributes<Business>> {
  declare onlyRow: CreationOptional<boolean>;
  declare name: string;
  declare homeCurrency: string;
  declare timeZone: string;
  declare senderAddress: string;
  declare statementText: string;
  declare practice: boolean;
  declare businessDate: string;
  declare nextInvoiceNumber: CreationOptional<bigint>;
  /** Stands before the numbers of credit notes, which count by themselves. */
  declare creditNotePrefix: CreationOptional<string>;
  /** Sets this database's idempotency keys apart from those of any other. */
  declare instance: CreationOptional<string>;

  static setup(sequelize: Sequelize): void {
    Business.init(
      {
        onlyRow: { ...flag(), primaryKey: true, defaultValue: true },
        name: text(),
        homeCurrency: text(),
        timeZone: text(),
        senderAddress: text(),
        statementText: text(),
        practice: flag(),
        businessDate: date(),
        nextInvoiceNumber: { ...money('nextInvoiceNumber'), defaultValue: 1 },
        creditNotePrefix: { ...text(), defaultValue: 'CN-' },
        instance: { type: DataTypes.UUID, defaultValue: DataTypes.UUIDV4 },
      },
      table(sequelize, 'business'),
    );
  }
}
