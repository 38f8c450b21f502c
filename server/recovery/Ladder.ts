import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { flag, identity, json, text, whole, table } from '../db/columns.ts';
import type { FinalAction, Rung } from '../../core/recovery/ladder.ts';

/** The policy of a recovery case. A ladder that has been climbed is never edited; it gets a new version. */
export class Ladder extends Model<InferAttributes<Ladder>, InferCreationAttributes<Ladder>> {
  declare id: CreationOptional<string>;
  declare name: string;
  declare version: number;
  declare rungs: Rung[];
  declare finalAction: FinalAction;
  declare finalAfterDays: number;
  declare isDefault: boolean;

  static setup(sequelize: Sequelize): void {
    Ladder.init(
      {
        id: identity(),
        name: text(),
        version: whole(),
        rungs: json(),
        finalAction: text(),
        finalAfterDays: whole(),
        isDefault: flag(),
      },
      table(sequelize, 'ladders'),
    );
  }
}
