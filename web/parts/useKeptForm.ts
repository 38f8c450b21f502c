import { useEffect, useState } from 'react';
import { useWatch, type FieldValues, type UseFormReturn } from 'react-hook-form';
import { forgetDraft, keepDraft, readKept, type Kept } from './keptDraft.ts';

/**
 * The same as `useKeptDraft` for a form of fields that are registered.
 * @param name of the form and of what it changes, with its version
 * @param initial what it begins with
 */
export function useKeptForm<Values extends FieldValues>(
  form: UseFormReturn<Values>,
  name: string,
  initial: Values,
): Kept<Values> {
  const [found] = useState(() => readKept(name, initial));
  const [from, setFrom] = useState(found?.at ?? null);
  const typed = useWatch({ control: form.control });
  useEffect(() => {
    if (found) form.reset(found.draft, { keepDefaultValues: true });
  }, [form, found]);
  useEffect(() => {
    keepDraft(name, typed, initial);
  }, [name, typed, initial]);
  return {
    from,
    afresh: () => {
      setFrom(null);
      form.reset(initial);
      return initial;
    },
    forget: () => forgetDraft(name),
  };
}
