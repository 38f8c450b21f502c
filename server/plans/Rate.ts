import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { dateOrNone, identity, json, reference, text, whole, table } from '../db/columns.ts';
import type { RateTerms } from '../../core/offer/composeTerms.ts';
import type { RateOptions } from './choiceMessages.ts';

/** The business's default tax, a certain one, or none. */
export type TaxChoice =
  { readonly kind: 'default' } | { readonly kind: 'none' } | { readonly kind: 'tax'; readonly id: string };

/** The tax that a new subscription to a rate pays by law, or null: none, or the one that its terms name. */
export function taxOfRate(
  rate: { readonly terms: object; readonly taxChoice: TaxChoice },
  defaultTax: string | null,
): string | null {
  if ('tax' in rate.terms) return null;
  switch (rate.taxChoice.kind) {
    case 'none':
      return null;
    case 'tax':
      return rate.taxChoice.id;
    case 'default':
      return defaultTax;
  }
}

/** A plan's price for one interval and currency: terms without the day they start on. */
export class Rate extends Model<InferAttributes<Rate>, InferCreationAttributes<Rate>> {
  declare id: CreationOptional<string>;
  declare planId: string;
  declare key: string;
  declare name: string;
  declare terms: RateTerms;
  /** Which tax new subscriptions pay, where the terms name none of their own. */
  declare taxChoice: CreationOptional<TaxChoice>;
  /** Counts up with every change; each is kept in rate_versions. */
  declare version: CreationOptional<number>;
  /** How it is sold and collected; as stored, to be read by `optionsOf`. */
  declare options: CreationOptional<Partial<RateOptions>>;
  declare archivedOn: CreationOptional<string | null>;

  static setup(sequelize: Sequelize): void {
    Rate.init(
      {
        id: identity(),
        planId: reference(),
        key: text(),
        name: text(),
        terms: json(),
        version: { ...whole(), defaultValue: 1 },
        options: { ...json(), defaultValue: {} },
        archivedOn: dateOrNone(),
        taxChoice: { ...json(), defaultValue: { kind: 'default' } },
      },
      table(sequelize, 'rates'),
    );
  }
}
