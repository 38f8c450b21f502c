import { useState } from 'react';
import { useSWRConfig } from 'swr';
import { Problem } from '../api/client.ts';
import { focusFirstFault, goToField } from '../frame/pageForm.ts';
import { liveFaults, type Refusal } from './liveFaults.ts';

/** Something that a form still needs: the field it is given in, and what it is, in words. */
export interface Missing {
  readonly field: string;
  readonly says: string;
}

interface Form<Message> {
  /** What would be sent now, good or not. Pointers of the server's faults are into it. */
  readonly message: Message;
  /** What is still needed, from the fields and the calculation, in the order of the fields. */
  readonly missing: readonly Missing[];
  /** What is wrong with what was typed, by field; `missing` need not say it again. */
  readonly faults?: ReadonlyMap<string, string>;
  /** Does it. Whatever it throws keeps what was typed. */
  readonly send: (message: Message) => Promise<unknown>;
  /** What the field of a server's fault is called here: by default the pointer without its first slash. */
  readonly fieldOf?: (pointer: string) => string;
  /** What to do once it is done, such as forgetting the kept draft. */
  readonly onDone?: () => void;
}

export interface DraftForm {
  readonly missing: readonly Missing[];
  /** What stands beside a field: the server's fault while it still holds, or what is wrong with what was typed. */
  readonly faultAt: (field: string) => string | undefined;
  readonly confirm: () => Promise<void>;
  readonly busy: boolean;
  /** Why it was not done, where no field can say it. */
  readonly says: string;
  /** The last refusal, while nothing has changed since. */
  readonly problem: Problem | null;
  /** Somebody tried to send it: what is empty may be named beside its field. */
  readonly tried: boolean;
}

/**
 * The one way that a form with a draft is sent: what is missing is decided in one place, a fault of the server stands
 * beside its field until that field changes, and the focus goes to the first thing that is not good.
 */
export function useDraftForm<Message>(form: Form<Message>): DraftForm {
  const { mutate } = useSWRConfig();
  const [refusal, setRefusal] = useState<Refusal | null>(null);
  const [tried, setTried] = useState(false);
  const [busy, setBusy] = useState(false);
  const { message, fieldOf = (pointer: string) => pointer.slice(1) } = form;
  const own = form.faults ?? new Map<string, string>();
  const refused = liveFaults(refusal, message).map(({ pointer, detail }) => ({
    field: fieldOf(pointer),
    says: detail,
  }));
  const missing = [...form.missing];
  for (const { field, says } of [...[...own].map(([at, said]) => ({ field: at, says: said })), ...refused]) {
    if (!missing.some((one) => one.field === field)) missing.push({ field, says: says.replace(/\.$/, '') });
  }
  const confirm = async () => {
    setTried(true);
    if (busy) return;
    if (missing[0]) return goToField(missing[0].field, missing[0].says);
    setBusy(true);
    setRefusal(null);
    try {
      await form.send(message);
      form.onDone?.();
      await mutate((key) => typeof key === 'string' && key.startsWith('/api/'));
    } catch (error) {
      const problem =
        error instanceof Problem ? error : new Problem(0, 'That did not work. Nothing was stored.', []);
      setRefusal({ problem, sent: message });
      focusFirstFault();
    } finally {
      setBusy(false);
    }
  };
  const still = refusal !== null && JSON.stringify(refusal.sent) === JSON.stringify(message);
  return {
    ...{ missing, busy, tried, confirm },
    faultAt: (field) => refused.find((one) => one.field === field)?.says ?? own.get(field),
    says: still && refused.length === 0 ? refusal.problem.message : '',
    problem: still ? refusal.problem : null,
  };
}
