import { useOutletContext } from 'react-router';
import type { BusinessView } from '../../server/run/messages.ts';

/** The business and its day, on any screen inside the frame. */
export function useFrame(): BusinessView {
  return useOutletContext<BusinessView>();
}
