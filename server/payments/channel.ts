/**
 * By which channel a card was given, which every charge passes on: by the customer online, to staff by phone or post, on the
 * reader, or in an import.
 */
export type Channel = 'customer' | 'staff' | 'reader' | 'import';
