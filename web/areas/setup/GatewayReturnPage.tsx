import { Button, Text } from '@chakra-ui/react';
import { useEffect, useRef } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';

/** Where the gateway sends one back after a hand-over. */
export function GatewayReturnPage() {
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const acting = useAct();
  const begun = useRef(false);
  const [code, state] = [params.get('code'), params.get('state')];
  useEffect(() => {
    // Once, whatever is drawn again: the code is good for one exchange.
    if (begun.current || code === null || state === null) return;
    begun.current = true;
    let id = '';
    void acting
      .act(async () => {
        ({ id } = await post<{ id: string }>('/api/gateways/hand-over/end', { code, state }));
      })
      .then((done) => done && navigate(`/setup/gateways?account=${id}`, { replace: true }));
  }, [acting, code, navigate, state]);
  return (
    <PageAndMargin title="Gateways">
      <Text role="status">
        {code === null
          ? 'The gateway did not hand the account over. Nothing was connected.'
          : (acting.problem?.message ?? 'The account is being connected …')}
      </Text>
      {(code === null || acting.problem) && (
        <Button asChild size="sm" mt="3" variant="outline">
          <Link to="/setup/gateways">Back to the gateways</Link>
        </Button>
      )}
    </PageAndMargin>
  );
}
