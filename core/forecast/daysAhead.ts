/** So many days after the day of a foresight every charge is known, and for as long as it need not be made anew. */
export const DAYS_AHEAD = 62;
