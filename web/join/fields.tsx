import { useId, type ComponentPropsWithRef, type ReactNode } from 'react';
import { useSaying } from './saying.ts';

interface Around {
  readonly label: string;
  readonly error?: string | undefined;
  readonly hint?: ReactNode;
  /** It may be left empty: that is said beside its name. */
  readonly optional?: boolean;
}

/** A field with its name above it, and what is wrong with it below. */
function Labelled(props: Around & { readonly id: string; readonly children: ReactNode }) {
  const { words } = useSaying();
  const { id, label, error, hint, optional = false, children } = props;
  return (
    <div className="field">
      <label htmlFor={id}>
        {label}
        {optional && <span className="quiet"> ({words.optional})</span>}
      </label>
      {children}
      <Below id={id} error={error} hint={hint} />
    </div>
  );
}

/** What is said below a field, which is named by it. */
function Below({ id, error, hint }: Pick<Around, 'error' | 'hint'> & { readonly id: string }) {
  return (
    <>
      {hint && (
        <p className="quiet" id={`${id}-hint`}>
          {hint}
        </p>
      )}
      {error && (
        <p className="error" id={`${id}-error`} role="alert">
          {error}
        </p>
      )}
    </>
  );
}

const told = (id: string, { error, hint }: Pick<Around, 'error' | 'hint'>) => ({
  id,
  'aria-invalid': error !== undefined,
  'aria-describedby':
    [error ? `${id}-error` : '', hint ? `${id}-hint` : ''].filter(Boolean).join(' ') || undefined,
});

export function Field({ label, error, hint, optional, ...input }: Around & ComponentPropsWithRef<'input'>) {
  const id = useId();
  const around = { label, error, hint, optional };
  return (
    <Labelled {...around} id={id}>
      <input type="text" autoComplete="off" {...input} {...told(id, around)} />
    </Labelled>
  );
}

export function Area({ label, error, hint, optional, ...input }: Around & ComponentPropsWithRef<'textarea'>) {
  const id = useId();
  const around = { label, error, hint, optional };
  return (
    <Labelled {...around} id={id}>
      <textarea rows={3} {...input} {...told(id, around)} />
    </Labelled>
  );
}

export function Select({ label, error, hint, optional, ...input }: Around & ComponentPropsWithRef<'select'>) {
  const id = useId();
  const around = { label, error, hint, optional };
  return (
    <Labelled {...around} id={id}>
      <select {...input} {...told(id, around)} />
    </Labelled>
  );
}

/** Something that is ticked, with its words beside it. */
export function Tick({
  label,
  error,
  hint,
  ...input
}: Omit<Around, 'label'> & { readonly label: ReactNode } & ComponentPropsWithRef<'input'>) {
  const id = useId();
  return (
    <div className="field">
      <label className="tick">
        <input type="checkbox" {...input} {...told(id, { error, hint })} />
        <span>{label}</span>
      </label>
      <Below id={id} error={error} hint={hint} />
    </div>
  );
}

/** One of several, each on a line of its own that can be pressed anywhere. */
export function Option({
  title,
  detail,
  more,
  ...input
}: {
  readonly title: ReactNode;
  readonly detail?: ReactNode;
  readonly more?: ReactNode;
} & ComponentPropsWithRef<'input'>) {
  return (
    <label className="option">
      <input type="radio" {...input} />
      <span className="option-says">
        <span className="option-title">{title}</span>
        {more && <span className="quiet">{more}</span>}
      </span>
      {detail && <span className="option-detail">{detail}</span>}
    </label>
  );
}
