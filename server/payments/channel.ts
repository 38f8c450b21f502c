/** By which channel a card was given (engine: every charge passes it on). */
export type Channel = 'customer' | 'staff' | 'import';
