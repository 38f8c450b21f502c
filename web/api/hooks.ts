import useSWR, { type SWRResponse } from 'swr';
import type { BusinessView } from '../../server/run/messages.ts';
import { get, type Problem } from './client.ts';
import { pathOfGateway, type CardPurpose, type GatewayAddresses } from './gateway.ts';

/** What the server has under a path; null asks nothing. The last answer stays while a new one is on its way. */
export function useAnswer<T>(
  path: string | null,
  options: { refreshMs?: number | ((latest: T | undefined) => number) } = {},
): SWRResponse<T, Problem> {
  return useSWR<T, Problem>(path, (asked: string) => get<T>(asked), {
    keepPreviousData: true,
    refreshInterval: options.refreshMs ?? 0,
  });
}

const NOWHERE: GatewayAddresses = { gateway: null, takesCards: true, others: [], bank: null };

/** Where methods are given for a rate or for what a customer has; nowhere while that is not known. */
export function useGateways(purpose: CardPurpose): GatewayAddresses {
  return useAnswer<GatewayAddresses>(pathOfGateway(purpose)).data ?? NOWHERE;
}

/** The business, its day, and the turn under way; asked for often while pages are turning. */
export function useBusiness(): SWRResponse<BusinessView, Problem> {
  return useSWR<BusinessView, Problem>('/api/business', (path: string) => get<BusinessView>(path), {
    refreshInterval: (latest) => (latest?.turn && latest.turn.state !== 'done' ? 400 : 0),
  });
}
