const SECRET = /^(card|cardToken|bank|password|secret|token)$/i;

/** Whether a member of something typed is never kept, by its name: a card, a bank account, a password, a code of a second factor. */
export const isSecretMember = (name: string): boolean => SECRET.test(name);
