import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { askAgainBy } from '../api/again.ts';

const PasswordAgain = lazy(() => import('./PasswordAgain.tsx'));

/** Asks for the password again before something sensitive, and then lets it be done: what was typed stays. */
export function SignInAgain() {
  const [asked, setAsked] = useState(false);
  const [open, setOpen] = useState(false);
  const settle = useRef<(did: boolean) => void>(() => undefined);
  useEffect(
    () =>
      askAgainBy(
        () =>
          new Promise((resolve) => {
            settle.current = resolve;
            setAsked(true);
            setOpen(true);
          }),
      ),
    [],
  );
  const close = (did: boolean) => {
    setOpen(false);
    settle.current(did);
  };
  if (!asked) return null;
  return (
    <Suspense fallback={null}>
      <PasswordAgain open={open} onClose={close} />
    </Suspense>
  );
}
