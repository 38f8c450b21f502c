import type { ReactNode } from 'react';
import { useFrame } from './useFrame.ts';

/** What only those see who may change something: owners and billers. The server checks it anyway. */
export function ForWriters({ children }: { readonly children: ReactNode }) {
  return useFrame().role === 'reader' ? null : <>{children}</>;
}
