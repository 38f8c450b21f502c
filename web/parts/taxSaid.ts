import { createContext, useContext } from 'react';
import type { TaxSaid } from '../../core/words/sayTax.ts';

/** The tax on the prices typed in a form, so that every amount says what it comes to. */
export const TaxSaidContext = createContext<TaxSaid>(undefined);
export const useTaxHere = () => useContext(TaxSaidContext);
