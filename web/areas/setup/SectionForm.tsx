import { Box, Button, Grid, Text } from '@chakra-ui/react';
import { zodResolver } from '@hookform/resolvers/zod';
import { useState, type ReactNode } from 'react';
import {
  Controller,
  useForm,
  useWatch,
  type DefaultValues,
  type FieldPath,
  type FieldValues,
  type UseFormReturn,
} from 'react-hook-form';
import { useSWRConfig } from 'swr';
import {
  SECTIONS,
  type SectionName,
  type SectionValue,
  type SectionView,
} from '../../../server/settings/messages.ts';
import { Problem, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { QuantityField } from '../../parts/QuantityField.tsx';
import { forgetDraft } from '../../parts/keptDraft.ts';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptForm } from '../../parts/useKeptForm.ts';
import { Conflict } from '../../parts/Conflict.tsx';

interface Props<Name extends SectionName> {
  readonly name: Name;
  readonly title: string;
  /** The fields; `value` is what is typed now, good or not. */
  readonly children: (form: UseFormReturn<FieldValues>, value: SectionValue<Name>) => ReactNode;
  /** What it means, for the margin. */
  readonly margin: (value: SectionValue<Name>, changed: boolean) => ReactNode;
  readonly below?: ReactNode;
  readonly action?: ReactNode;
}

/** A page of Setup that edits one section: its fields, its meaning in the margin, and one button that stores it. */
export function SectionForm<Name extends SectionName>(props: Props<Name>) {
  const { data, error } = useAnswer<SectionView<Name>>(`/api/setup/${props.name}`);
  if (error && !data) return <Text p="8">{error.message}</Text>;
  if (!data) return <PageLoading title={props.title} shape="form" />;
  return <Editor key={props.name} {...props} read={data} />;
}

function Editor<Name extends SectionName>(props: Props<Name> & { readonly read: SectionView<Name> }) {
  const { name, title, children, margin, below, action } = props;
  // What was read first stays, whatever comes later: nothing typed is lost to a refresh.
  const [read, setRead] = useState(props.read);
  const [says, setSays] = useState<{ good: boolean; text: string } | null>(null);
  const [theirs, setTheirs] = useState<SectionView<Name> | null>(null);
  const { role } = useFrame();
  const { mutate } = useSWRConfig();
  const form = useForm<FieldValues>({
    resolver: zodResolver(SECTIONS[name] as never) as never,
    mode: 'onTouched',
    defaultValues: read.value as DefaultValues<FieldValues>,
  });
  const value = useWatch({ control: form.control }) as SectionValue<Name>;
  const changed = form.formState.isDirty;
  const kept = useKeptForm(form, `setup:${name}:${read.version}`, read.value as FieldValues);

  const store = async (version: number) => {
    setSays(null);
    try {
      const typed = SECTIONS[name].parse(form.getValues());
      const stored = await put<SectionView<Name>>(`/api/setup/${name}`, { version, value: typed });
      take(stored);
      setSays({ good: true, text: 'Stored.' });
      forgetDraft(`setup:${name}:${version}`);
      await mutate((key) => typeof key === 'string' && key.startsWith('/api/'));
    } catch (error) {
      tell(error);
    }
  };
  const take = (view: SectionView<Name>) => {
    setRead(view);
    setTheirs(null);
    form.reset(view.value as FieldValues);
  };
  const tell = (error: unknown) => {
    if (error instanceof Problem && error.theirs) return setTheirs(error.theirs as SectionView<Name>);
    const faults = error instanceof Problem ? error.faults : [];
    for (const { pointer, detail } of faults) {
      const path = pointer.replace(/^\/value\/?/, '').replaceAll('/', '.');
      if (path !== '') form.setError(path as FieldPath<FieldValues>, { message: detail });
    }
    setSays({ good: false, text: error instanceof Problem ? error.message : 'It was not stored.' });
  };

  return (
    <PageAndMargin
      title={title}
      action={action}
      arriveAt="field"
      margin={
        <>
          {margin(value, changed)}
          {theirs && (
            <Conflict
              mine={value}
              theirs={theirs.value}
              by={theirs.changedBy}
              onMine={() => void store(theirs.version)}
              onTheirs={() => take(theirs)}
            />
          )}
          {role === 'owner' ? (
            <Box mt="6">
              <Button
                type="submit"
                form="section"
                size="sm"
                colorPalette="kelp"
                disabled={!changed || theirs !== null}
                loading={form.formState.isSubmitting}
              >
                Store the changes
              </Button>
              <Text role="status" mt="2" color={says?.good ? 'collected' : 'declined'}>
                {says?.text ?? ''}
              </Text>
              {read.changedBy !== '' && (
                <Text color="muted" fontSize="13px" mt="2">
                  Last changed by {read.changedBy}.
                </Text>
              )}
            </Box>
          ) : (
            <Text color="muted" mt="6">
              Only an owner changes this.
            </Text>
          )}
        </>
      }
    >
      <KeptNote kept={kept} />
      <form id="section" noValidate onSubmit={form.handleSubmit(() => store(read.version))}>
        <fieldset disabled={role !== 'owner'} style={{ border: 0, padding: 0, margin: 0 }}>
          <Grid gap="5" maxW="640px">
            {children(form, value)}
          </Grid>
        </fieldset>
      </form>
      {below}
    </PageAndMargin>
  );
}

/** A whole number of a section's form, stored as a number. */
export function CountField(props: {
  readonly form: UseFormReturn<FieldValues>;
  readonly path: string;
  readonly label: string;
  readonly least?: number;
  readonly most: number;
  readonly hint?: string;
  /** Whether it may stay empty: then there is no number. */
  readonly optional?: boolean;
}) {
  const { form, path, optional = false, ...field } = props;
  return (
    <Controller
      control={form.control}
      name={path}
      render={({ field: { value, onChange, onBlur } }) => (
        <div onBlur={onBlur}>
          <QuantityField
            {...field}
            error={faultAt(form, path)}
            // What could not be read is kept as it was typed, and refused by the schema.
            value={
              typeof value === 'number' ? (Number.isNaN(value) ? '' : String(value)) : String(value ?? '')
            }
            onChange={({ target }) =>
              onChange(
                optional && target.value.trim() === ''
                  ? null
                  : /^\d+$/.test(target.value)
                    ? Number(target.value)
                    : target.value,
              )
            }
          />
        </div>
      )}
    />
  );
}

/** What is wrong with a field of a section's form, by its path. */
export function faultAt(form: UseFormReturn<FieldValues>, path: string): string | undefined {
  const found = path.split('.').reduce<unknown>((at, step) => {
    return at !== null && typeof at === 'object' ? (at as Record<string, unknown>)[step] : undefined;
  }, form.formState.errors);
  const message = (found as { message?: unknown } | undefined)?.message;
  return typeof message === 'string' ? message : undefined;
}

/** Everything an input of a section's form needs beside its label. */
export function field(form: UseFormReturn<FieldValues>, path: string) {
  return { ...form.register(path), error: faultAt(form, path) };
}
