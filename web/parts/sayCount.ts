const figures = new Intl.NumberFormat('en');

/** A whole number as it is read: '12,000'. */
export const sayCount = (count: number): string => figures.format(count);
