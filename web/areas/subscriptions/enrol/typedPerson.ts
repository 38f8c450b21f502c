/** Somebody as they were typed into one field: 'Ada Fenn ada@post.example', either part alone, in any order. */
export interface TypedPerson {
  readonly name: string;
  readonly email: string;
}

const ADDRESS = /[^\s<>"(),;:]+@[^\s<>"(),;:]+/;

/** Tells a name and an e-mail address apart in what was typed. */
export function typedPerson(typed: string): TypedPerson {
  const email = ADDRESS.exec(typed)?.[0] ?? '';
  const rest = email === '' ? typed : typed.replace(email, ' ');
  return {
    name: rest
      .replace(/[<>"(),;]/g, ' ')
      .replace(/\s+/g, ' ')
      .trim(),
    email,
  };
}

/** The same in words: what would be written down of somebody new. */
export function sayTypedPerson({ name, email }: TypedPerson): string {
  return [name, email].filter((part) => part !== '').join(', ');
}
