import { Button, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { TickField } from '../../parts/TickField.tsx';
import { OwnPart } from './OwnPart.tsx';
import { useOwnSaying } from './ownSaying.ts';

/** Asks a customer to agree to the terms of service, which stand further down, before anything is paid. */
export function OwnTerms(props: {
  readonly version: number;
  readonly path: string;
  readonly readOnly: boolean;
  readonly onDone: () => void;
}) {
  const { version, path, readOnly, onDone } = props;
  const { terms: words } = useOwnSaying().words;
  const [agreed, setAgreed] = useState(false);
  const acting = useAct();
  const send = async () => {
    if (await acting.act(() => post(`${path}/terms`, { version }))) onDone();
  };
  return (
    <OwnPart title={words.title}>
      <Text mb="2">{words.says}</Text>
      <TickField label={words.agree(version)} checked={agreed} onChange={setAgreed} />
      <Button
        mt="3"
        w="full"
        data-main
        loading={acting.busy}
        disabled={readOnly || !agreed}
        onClick={() => void send()}
      >
        {words.goOn}
      </Button>
      <Outcome of={acting} />
    </OwnPart>
  );
}
