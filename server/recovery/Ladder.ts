import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { dateOrNone, flag, identity, json, referenceOrNone, text, whole, table } from '../db/columns.ts';
import type { FinalAction, RetryManner, Rung } from '../../core/recovery/ladder.ts';
import type { Serves } from './ladderMessages.ts';

/** One version of the policy of recovery cases. A version is never edited: a ladder that is changed gets a new one. */
export class Ladder extends Model<InferAttributes<Ladder>, InferCreationAttributes<Ladder>> {
  declare id: CreationOptional<string>;
  declare name: string;
  declare version: number;
  declare rungs: Rung[];
  declare finalAction: FinalAction;
  declare finalAfterDays: number;
  declare manner: RetryManner;
  /** Whose cases climb it; those of all others, where it is the one for everybody else. */
  declare serves: Serves;
  declare isDefault: boolean;
  /** Its first version, by which all versions of one ladder are known. */
  declare lineId: CreationOptional<string | null>;
  /** Whether cases that open now may climb it. */
  declare isCurrent: CreationOptional<boolean>;
  /** The order in which ladders are asked whether they serve a case. */
  declare place: CreationOptional<number>;
  declare madeOn: CreationOptional<string | null>;
  declare madeBy: CreationOptional<string>;

  static setup(sequelize: Sequelize): void {
    Ladder.init(
      {
        id: identity(),
        name: text(),
        version: whole(),
        rungs: json(),
        finalAction: text(),
        finalAfterDays: whole(),
        manner: json(),
        serves: json(),
        isDefault: flag(),
        lineId: referenceOrNone(),
        isCurrent: { ...flag(), defaultValue: true },
        place: { ...whole(), defaultValue: 0 },
        madeOn: dateOrNone(),
        madeBy: { ...text(), defaultValue: '' },
      },
      table(sequelize, 'ladders'),
    );
  }
}
