/** Formatted text of the business: a few elements, made safe by the server before it was stored. */
export function Html({ text }: { readonly text: string }) {
  return text === '' ? null : <div className="text" dangerouslySetInnerHTML={{ __html: text }} />;
}
