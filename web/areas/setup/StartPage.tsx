import type { Readiness } from '../../../server/readiness/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { DaySheetPage } from '../days/DaySheetPage.tsx';
import { ReadinessPage } from './ReadinessPage.tsx';

/** Where one comes in: the readiness list until money can move, the day sheet of the business day after that. */
export function StartPage() {
  const { data, error } = useAnswer<Readiness>('/api/readiness');
  if (!data && !error) return <PageLoading />;
  return data && !data.canMoveMoney ? <ReadinessPage /> : <DaySheetPage />;
}
