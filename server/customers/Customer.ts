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
  referenceOrNone,
  text,
  textOrNone,
  whole,
  table,
} from '../db/columns.ts';
import type { OwnField, Place } from './placeMessages.ts';
import type { Receipts } from './receiptMessages.ts';

/** A person or organisation that is charged. */
export class Customer extends Model<InferAttributes<Customer>, InferCreationAttributes<Customer>> {
  declare id: CreationOptional<string>;
  declare reference: string;
  declare name: string;
  declare email: string;
  declare createdOn: string;
  /** ISO 3166-1, or null where it was not asked for: then tax and holidays are those at home. */
  declare country: CreationOptional<string | null>;
  declare region: CreationOptional<string>;
  declare phone: CreationOptional<string>;
  declare organisation: CreationOptional<string>;
  declare address: CreationOptional<string>;
  declare postcode: CreationOptional<string>;
  /** Where goods go to; null: where they are billed. */
  declare shipping: CreationOptional<Place | null>;
  /** What they gave for the fields of the business's own. */
  declare fields: CreationOptional<OwnField[]>;
  /** ISO 639-1; empty: they read that of the business. */
  declare language: CreationOptional<string>;
  declare taxNumber: CreationOptional<string>;
  /** Why no tax is charged; empty for everybody who pays it. */
  declare taxExempt: CreationOptional<string>;
  /** Which payments they get receipts of, and why of none. */
  declare receipts: CreationOptional<Receipts>;
  declare receiptsWhy: CreationOptional<string>;
  declare groupId: CreationOptional<string | null>;
  /** The day on which they were asked for a way to pay that they have not given yet. */
  declare methodAskedOn: CreationOptional<string | null>;
  /** When what is known of them was erased. */
  declare erasedOn: CreationOptional<string | null>;
  declare version: CreationOptional<number>;
  /** Who changed it last; empty: nobody has. */
  declare changedBy: CreationOptional<string>;

  static setup(sequelize: Sequelize): void {
    Customer.init(
      {
        id: identity(),
        reference: text(),
        name: text(),
        email: text(),
        createdOn: date(),
        country: textOrNone(),
        region: { ...text(), defaultValue: '' },
        phone: { ...text(), defaultValue: '' },
        organisation: { ...text(), defaultValue: '' },
        address: { ...text(), defaultValue: '' },
        postcode: { ...text(), defaultValue: '' },
        shipping: jsonOrNone(),
        fields: { ...json(), defaultValue: [] },
        language: { ...text(), defaultValue: '' },
        taxNumber: { ...text(), defaultValue: '' },
        taxExempt: { ...text(), defaultValue: '' },
        receipts: { ...text(), defaultValue: 'always' },
        receiptsWhy: { ...text(), defaultValue: '' },
        groupId: referenceOrNone(),
        methodAskedOn: dateOrNone(),
        erasedOn: dateOrNone(),
        version: { ...whole(), defaultValue: 1 },
        changedBy: { ...text(), defaultValue: '' },
      },
      table(sequelize, 'customers'),
    );
  }
}
