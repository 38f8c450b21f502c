import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, identity, text, table } from '../db/columns.ts';

/** A wish to turn pages up to (not including) `toDate`; at most one is under way. */
export class PageTurn extends Model<InferAttributes<PageTurn>, InferCreationAttributes<PageTurn>> {
  declare id: CreationOptional<string>;
  declare fromDate: string;
  declare toDate: string;
  declare state: 'turning' | 'waiting' | 'done';
  declare says: CreationOptional<string>;

  static setup(sequelize: Sequelize): void {
    PageTurn.init(
      {
        id: identity(),
        fromDate: date(),
        toDate: date(),
        state: text(),
        says: text(),
      },
      table(sequelize, 'page_turns'),
    );
  }
}
