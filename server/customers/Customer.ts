import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, identity, text, table } from '../db/columns.ts';

/** A person or organisation that is charged. */
export class Customer extends Model<InferAttributes<Customer>, InferCreationAttributes<Customer>> {
  declare id: CreationOptional<string>;
  declare reference: string;
  declare name: string;
  declare email: string;
  declare createdOn: string;

  static setup(sequelize: Sequelize): void {
    Customer.init(
      {
        id: identity(),
        reference: text(),
        name: text(),
        email: text(),
        createdOn: date(),
      },
      table(sequelize, 'customers'),
    );
  }
}
