import { Link } from 'react-router';
import { PageAndMargin } from './PageAndMargin.tsx';

/** An address that leads nowhere. */
export function NotFound() {
  return (
    <PageAndMargin title="There is no such page">
      <Link to="/">Go to the day sheet</Link>
    </PageAndMargin>
  );
}
