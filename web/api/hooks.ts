import useSWR, { type SWRResponse } from 'swr';
import type { BusinessView } from '../../server/run/messages.ts';
import { get, type Problem } from './client.ts';
import { pathOfGateway, type CardPurpose, type GatewayAddress } from './gateway.ts';

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

/** Where a card is given for a rate or for what a customer has; null while that is not known, or there is nowhere. */
export function useCardGateway(purpose: CardPurpose): GatewayAddress | null {
  return useAnswer<{ gateway: GatewayAddress | null }>(pathOfGateway(purpose)).data?.gateway ?? null;
}

/** The business, its day, and the turn under way; asked for often while pages are turning. */
export function useBusiness(): SWRResponse<BusinessView, Problem> {
  return useSWR<BusinessView, Problem>('/api/business', (path: string) => get<BusinessView>(path), {
    refreshInterval: (latest) => (latest?.turn && latest.turn.state !== 'done' ? 400 : 0),
  });
}
