import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { dateOrNone, identity, text, table } from '../db/columns.ts';

/** What is offered. */
export class Plan extends Model<InferAttributes<Plan>, InferCreationAttributes<Plan>> {
  declare id: CreationOptional<string>;
  declare key: string;
  declare name: string;
  declare description: CreationOptional<string>;
  declare archivedOn: CreationOptional<string | null>;

  static setup(sequelize: Sequelize): void {
    Plan.init(
      {
        id: identity(),
        key: text(),
        name: text(),
        description: text(),
        archivedOn: dateOrNone(),
      },
      table(sequelize, 'plans'),
    );
  }
}
