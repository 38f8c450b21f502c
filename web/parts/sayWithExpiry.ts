/** 'Larkfield ending 4242, expires 05/2031'; a bank account has no expiry. */
export function sayWithExpiry(of: { readonly says: string; readonly expires: string | null }): string {
  return of.expires === null ? of.says : `${of.says}, expires ${of.expires}`;
}
