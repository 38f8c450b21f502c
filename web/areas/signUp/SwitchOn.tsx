import { Button } from '@chakra-ui/react';
import { put } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';

interface Props {
  readonly id: string;
  readonly isOn: boolean;
  readonly onDone?: () => void;
}

/** Opens a page to customers, or closes it; those who joined stay. */
export function SwitchOn({ id, isOn, onDone }: Props) {
  const acting = useAct();
  const turn = async () => {
    if (await acting.act(() => put(`/api/sign-up-pages/${id}/on`, { on: !isOn }))) onDone?.();
  };
  return (
    <>
      <Button size="xs" variant="outline" loading={acting.busy} onClick={() => void turn()}>
        {isOn ? 'Turn off' : 'Turn on'}
      </Button>
      <Outcome of={acting} />
    </>
  );
}
