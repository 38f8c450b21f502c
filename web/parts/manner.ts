import { createContext, useContext } from 'react';

/** How figures and dates are typed and printed here, and the day that '+2w' is counted from. */
export interface MannerHere {
  /** A BCP 47 tag: the business's language and country. */
  readonly locale: string;
  /** `YYYY-MM-DD`, the business day. */
  readonly today: string;
  /** What the business is called. */
  readonly business: string;
}

export const MannerContext = createContext<MannerHere>({
  locale: 'en-GB',
  today: '2027-01-01',
  business: 'Keen Almanac',
});
export const useManner = () => useContext(MannerContext);
