import { useParams } from 'react-router';
import { post } from '../api/client.ts';
import { useAnswer } from '../api/hooks.ts';
import { keepDraftsOf } from '../parts/keptDraft.ts';
import { Door } from './Door.tsx';
import { NewPerson } from './NewPerson.tsx';

/** Where an invitation's link leads. */
export function Invited() {
  const { token = '' } = useParams();
  const { data, error } = useAnswer<{ name: string; email: string; role: string; business: string }>(
    `/api/invited/${token}`,
  );
  if (!data) return <Door says={error?.message ?? 'One moment …'}>{null}</Door>;
  return (
    <Door
      says={`You are invited to work on ${data.business} as ${data.role}. You will sign in with ${data.email}.`}
    >
      <NewPerson
        name={data.name}
        button="Come in"
        onReady={async ({ name, password }) => {
          await post('/api/invited', { token, name, password });
          keepDraftsOf(data.email.toLowerCase());
        }}
      />
    </Door>
  );
}
