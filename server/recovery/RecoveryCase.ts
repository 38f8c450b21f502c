import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, dateOrNone, identity, instantOrNone, reference, text, whole, table } from '../db/columns.ts';
import type { DeclineClass } from '../../core/recovery/declineCodes.ts';

/** Opened by a failed payment; climbs its ladder until recovered or given up. */
export class RecoveryCase extends Model<
  InferAttributes<RecoveryCase>,
  InferCreationAttributes<RecoveryCase>
> {
  declare id: CreationOptional<string>;
  declare subscriptionId: string;
  declare ladderId: string;
  declare state: 'open' | 'recovered' | 'given up';
  declare declineClass: DeclineClass;
  declare openedOn: string;
  declare retryOn: CreationOptional<string | null>;
  /** In production, from which instant of that day on: a bank that is away is asked again within hours. */
  declare retryAt: CreationOptional<Date | null>;
  declare nextRung: CreationOptional<number>;
  declare nextRungOn: CreationOptional<string | null>;
  declare closedOn: CreationOptional<string | null>;

  static setup(sequelize: Sequelize): void {
    RecoveryCase.init(
      {
        id: identity(),
        subscriptionId: reference(),
        ladderId: reference(),
        state: text(),
        declineClass: text(),
        openedOn: date(),
        retryOn: dateOrNone(),
        retryAt: instantOrNone(),
        nextRung: { ...whole(), defaultValue: 0 },
        nextRungOn: dateOrNone(),
        closedOn: dateOrNone(),
      },
      table(sequelize, 'recovery_cases'),
    );
  }
}
