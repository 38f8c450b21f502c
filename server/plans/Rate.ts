import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { identity, json, reference, text, table } from '../db/columns.ts';
import type { RateTerms } from './rateTerms.ts';

/** A plan's price for one interval and currency: terms without the day they start on. */
export class Rate extends Model<InferAttributes<Rate>, InferCreationAttributes<Rate>> {
  declare id: CreationOptional<string>;
  declare planId: string;
  declare key: string;
  declare name: string;
  declare terms: RateTerms;

  static setup(sequelize: Sequelize): void {
    Rate.init(
      {
        id: identity(),
        planId: reference(),
        key: text(),
        name: text(),
        terms: json(),
      },
      table(sequelize, 'rates'),
    );
  }
}
