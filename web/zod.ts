import { config } from 'zod/v4';

// The content security policy allows no code made from text, which Zod would otherwise try.
config({ jitless: true });

export * from 'zod/v4';
